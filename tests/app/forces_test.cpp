// Forces by hand: their cards, their handles on the stage, and curves that they depend on.
#include <QComboBox>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>

#include "app/window_fixture.h"
#include "shot/edit.h"
#include "view/viewport.h"

using namespace pour;

namespace {

class Forces : public Window {
 protected:
  /// Adds a force from the menu of its step.
  void add(int kind) {
    auto* button = find<QPushButton>("add_force");
    ASSERT_TRUE(button && button->menu());
    button->menu()->actions().at(kind)->trigger();
    QTest::qWait(50);
  }
};

}  // namespace

TEST_F(Forces, EachKindComesFromTheMenuAndGoesAgain) {
  click("step_3");
  const size_t before = shot().forces.size();
  for (int kind = 0; kind < int(force_kinds().size()); ++kind) {
    add(kind);
    ASSERT_EQ(shot().forces.size(), before + 1) << force_kinds()[size_t(kind)].label;
    const Force& f = shot().forces.back();
    EXPECT_EQ(f.what.index(), size_t(kind));
    const QString path = "forces." + QString::fromStdString(f.id);
    EXPECT_TRUE(find("card_" + path)) << path.toStdString();
    click("remove_" + path);
    QTest::qWait(50);
    EXPECT_EQ(shot().forces.size(), before);
    EXPECT_TRUE(gone("card_" + path));
  }
  window->document().undo();
  EXPECT_EQ(shot().forces.size(), before + 1);
}

TEST_F(Forces, APullIsMovedByItsHandle) {
  click("step_3");
  add(int(ForceKind(Pull()).index()));
  const auto pull = [&] { return *shot().forces.back().as<Pull>(); };
  auto* stage = find<Viewport>("viewport");
  const Vec3d before = pull().position;
  const QPoint from = stage->to_screen(before).toPoint(), to = from + QPoint(60, -40);
  QTest::mousePress(stage, Qt::LeftButton, {}, from);
  QMouseEvent e(QEvent::MouseMove, QPointF(to), stage->mapToGlobal(QPointF(to)), Qt::NoButton, Qt::LeftButton,
                {});
  QApplication::sendEvent(stage, &e);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, to);
  EXPECT_GT(pull().position.x, before.x + 0.005);
  EXPECT_GT(pull().position.y, before.y + 0.005);
  EXPECT_NEAR(stage->to_screen(pull().position).x(), to.x(), 2);
  EXPECT_NEAR(stage->to_screen(pull().position).y(), to.y(), 2);
  window->document().undo();
  EXPECT_EQ(pull().position, before) << "one drag, one undo";
}

TEST_F(Forces, ACurrentIsBentByItsPoints) {
  click("step_3");
  add(int(ForceKind(Current()).index()));
  const auto current = [&] { return *shot().forces.back().as<Current>(); };
  auto* stage = find<Viewport>("viewport");
  const Points before = current().points;
  const QPoint from = stage->to_screen(before.list[1]).toPoint(), to = from + QPoint(30, 50);
  QTest::mousePress(stage, Qt::LeftButton, {}, from);
  QMouseEvent e(QEvent::MouseMove, QPointF(to), stage->mapToGlobal(QPointF(to)), Qt::NoButton, Qt::LeftButton,
                {});
  QApplication::sendEvent(stage, &e);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, to);
  EXPECT_NEAR(stage->to_screen(current().points.list[1]).x(), to.x(), 2);
  EXPECT_NEAR(stage->to_screen(current().points.list[1]).y(), to.y(), 2);
  EXPECT_EQ(current().points.list[0], before.list[0]);
  EXPECT_EQ(current().points.list[2], before.list[2]);
  window->document().undo();
  EXPECT_EQ(current().points, before) << "one drag, one undo";
}

TEST_F(Forces, ACurrentGetsPointsAndLosesThem) {
  click("step_3");
  add(int(ForceKind(Current()).index()));
  const auto points = [&] { return shot().forces.back().as<Current>()->points.list; };
  const size_t before = points().size();
  // What the menu of its second point offers, by its place in it.
  const auto choose = [&](int action) {
    const std::string wanted = "forces." + shot().forces.back().id + ".points 1";
    const auto handles = handles_of(window->document());
    const auto handle =
        std::find_if(handles.begin(), handles.end(), [&](const Handle& h) { return h.id == wanted; });
    ASSERT_NE(handle, handles.end());
    QMenu menu;
    handle->fill(menu);
    menu.actions()[action]->trigger();
  };
  const Vec3d middle = (points()[1] + points()[2]) * 0.5;
  choose(0);
  ASSERT_EQ(points().size(), before + 1);
  EXPECT_EQ(points()[2], middle);
  choose(1);
  EXPECT_EQ(points().size(), before);
  window->document().undo();
  window->document().undo();
  EXPECT_EQ(points().size(), before);
}

TEST_F(Forces, FluidIsGatheredIntoAChosenPiece) {
  click("step_3");
  add(int(ForceKind(Gather()).index()));
  const std::string path = "forces." + shot().forces.back().id;
  const std::string piece = shot().pieces.front().id;
  click(QString::fromStdString("token_" + path + ".piece"));
  QTest::qWait(50);
  auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
  ASSERT_TRUE(menu && !menu->actions().isEmpty());
  for (QAction* a : menu->actions())
    if (a->text() == QString::fromStdString(shot().pieces.front().name)) a->trigger();
  menu->close();
  EXPECT_EQ(shot().forces.back().as<Gather>()->piece.id, piece);
  show_more();
  type(QString::fromStdString(path + ".fastest_speed"), "80 cm/s");
  EXPECT_DOUBLE_EQ(shot().forces.back().as<Gather>()->fastest, 0.8);
}

// Its arrows are on the stage, and only while its step is open.
TEST_F(Forces, AWindIsSeenBeforeItIsRun) {
  const auto yellow = [&] {
    QTest::qWait(150);
    const QImage seen = find<Viewport>("viewport")->grab().toImage();
    int n = 0;
    for (int y = 0; y < seen.height(); ++y)
      for (int x = 0; x < seen.width(); ++x) {
        const QColor c = seen.pixelColor(x, y);
        n += c.red() > c.blue() + 60 && c.green() > c.blue() + 20 && c.red() > 140;
      }
    return n;
  };
  click("step_3");
  settle();
  const int before = yellow();
  add(int(ForceKind(Wind()).index()));
  window->document().edit("first", [](Shot& s) { std::swap(s.forces.front(), s.forces.back()); });
  const int with = yellow();
  EXPECT_GT(with, before + 200);
  click("step_4");
  EXPECT_LT(yellow(), before + (with - before) / 4);
}

TEST_F(Forces, AStrengthFollowsACurveOverAge) {
  click("step_3");
  show_more();
  auto* list = find<QComboBox>("forces.gravity.depends_on");
  ASSERT_TRUE(list);
  list->setCurrentIndex(int(Driver::age));
  Q_EMIT list->activated(int(Driver::age));
  QTest::qWait(50);
  EXPECT_EQ(shot().force("gravity")->depends.driver, Driver::age);
  const std::string curve = "age: 0 s, 0 %; 2 s, 100 %";
  type("forces.gravity.depends_on_points", "0 s, 0 %; 2 s, 100 %");
  EXPECT_EQ(to_text(shot().force("gravity")->depends), curve);
  type("forces.gravity.depends_on_points", "2 s, 0 %; 1 s, 100 %");
  EXPECT_EQ(to_text(shot().force("gravity")->depends), curve) << "points that fall are refused";
}
