// What is selected on the stage and in the recipe, and the handles that move, turn and size it.
#include <cmath>
#include <QFrame>
#include <QLabel>
#include <QMenu>

#include "app/window_fixture.h"
#include "base/file.h"
#include "base/units.h"
#include "shape/pose.h"
#include "shot/arrival.h"
#include "shot/edit.h"
#include "view/viewport.h"

using namespace pour;

namespace {

class OnStage : public Window {
 protected:
  Viewport* stage = nullptr;

  /// Two balls beside each other instead of the word.
  void SetUp() override {
    Window::SetUp();
    window->document().edit("balls", [](Shot& s) {
      s.pieces.clear();
      for (const double x : {-0.08, 0.08}) {
        Piece p;
        p.id = x < 0 ? "left" : "right", p.name = x < 0 ? "Left" : "Right";
        p.shape = Ball{0.04}, p.position = {x, 0.1, 0}, p.holds = false, p.blocks = true;
        s.pieces.push_back(p);
      }
    });
    window->document().open_step(1);
    settle();
    stage = find<Viewport>("viewport");
    ASSERT_TRUE(stage);
  }
  QPoint at(const Vec3d& p) { return stage->to_screen(p).toPoint(); }
  void click_at(const QPoint& p, Qt::KeyboardModifiers keys = {}) {
    QTest::mouseClick(stage, Qt::LeftButton, keys, p);
    QTest::qWait(20);
  }
  void drag(const QPointF& from, const QPointF& to, Qt::KeyboardModifiers keys = {}) {
    QTest::mousePress(stage, Qt::LeftButton, keys, from.toPoint());
    for (const double t : {0.3, 0.7, 1.0}) {
      const QPointF p = from + (to - from) * t;
      QMouseEvent e(QEvent::MouseMove, p, stage->mapToGlobal(p), Qt::NoButton, Qt::LeftButton, keys);
      QApplication::sendEvent(stage, &e);
    }
    QTest::mouseRelease(stage, Qt::LeftButton, keys, to.toPoint());
    QTest::qWait(20);
  }
  const std::vector<std::string>& selected() { return window->document().selected(); }
  const Piece& left() { return *shot().piece("left"); }
};

}  // namespace

TEST_F(OnStage, AClickSelectsAPieceAndItsCard) {
  const Vec3d beside{0, 0.025, 0};  // on the ball, not on its handle
  click_at(at(left().position + beside));
  ASSERT_EQ(selected(), std::vector<std::string>{"left"});
  EXPECT_TRUE(find<QFrame>("card_pieces.left")->property("chosen").toBool());
  EXPECT_FALSE(find<QFrame>("card_pieces.right")->property("chosen").toBool());
  click_at(at(shot().piece("right")->position + beside), Qt::ControlModifier);
  EXPECT_EQ(selected(), (std::vector<std::string>{"left", "right"}));
  click_at(QPoint(30, stage->height() / 2));  // on nothing
  EXPECT_TRUE(selected().empty());
  EXPECT_FALSE(stage->handles());
  // In the recipe.
  QTest::mouseClick(find<QFrame>("card_pieces.right"), Qt::LeftButton, {}, QPoint(20, 16));
  EXPECT_EQ(selected(), std::vector<std::string>{"right"});
  EXPECT_TRUE(stage->handles());
}

TEST_F(OnStage, ALockedPieceIsLeftAlone) {
  window->document().set("pieces.left.locked", "yes");
  click_at(at(left().position + Vec3d{0, 0.025, 0}));
  EXPECT_TRUE(selected().empty());
  drag(at(left().position), at(left().position) + QPointF(40, 0));
  EXPECT_EQ(left().position, (Vec3d{-0.08, 0.1, 0}));
}

TEST_F(OnStage, AnArrowMovesAlongItsAxisOnly) {
  window->document().select("left");
  const QPointF tip = stage->handles()->handle(Gizmo::Part::move_y);
  const QPointF middle = stage->handles()->handle(Gizmo::Part::middle);
  drag(tip, tip + (tip - middle) * 0.5);
  EXPECT_GT(left().position.y, 0.11);
  EXPECT_EQ(left().position.x, -0.08);
  EXPECT_EQ(left().position.z, 0);
  // Where the pointer has gone, the tip has gone.
  const QPointF now = stage->handles()->handle(Gizmo::Part::move_y);
  EXPECT_LT(
      std::hypot(now.x() - tip.x() - (tip - middle).x() * 0.5, now.y() - tip.y() - (tip - middle).y() * 0.5),
      4);
  window->document().undo();
  EXPECT_EQ(left().position, (Vec3d{-0.08, 0.1, 0})) << "one drag is one step";
}

TEST_F(OnStage, AnArcTurnsAndTheDiamondSizes) {
  window->document().select("left");
  const Gizmo before = *stage->handles();
  drag(before.handle(Gizmo::Part::turn_z), before.handle(Gizmo::Part::move_y));
  EXPECT_NEAR(left().turn.z, 45 * degree, 8 * degree) << "from between both axes up to the second";
  EXPECT_NEAR(left().turn.x, 0, 1e-6);
  EXPECT_LT(length(left().position - Vec3d{-0.08, 0.1, 0}), 1e-9);
  const QPointF size = before.handle(Gizmo::Part::size), middle = before.handle(Gizmo::Part::middle);
  drag(size, size + (size - middle));
  EXPECT_NEAR(left().scale, 2, 0.06);
}

TEST_F(OnStage, ControlSnapsAndShiftRestsOnWhatIsThere) {
  window->document().select("left");
  const QPointF middle = stage->handles()->handle(Gizmo::Part::middle);
  drag(middle, middle + QPointF(33, -27), Qt::ControlModifier);
  const Vec3d p = left().position;
  for (int a = 0; a < 2; ++a) EXPECT_NEAR(p[a], std::round(p[a] * 100) / 100, 1e-6) << a;
  EXPECT_GT(length(p - Vec3d{-0.08, 0.1, 0}), 0.005);
  // On top of the other ball.
  const QPointF top = at(Vec3d{0.08, 0.139, 0.005});
  drag(stage->handles()->handle(Gizmo::Part::middle), top, Qt::ShiftModifier);
  EXPECT_NEAR(left().position.x, 0.08, 0.02);
  EXPECT_GT(left().position.y, 0.165);
  // On the floor, in front of it.
  drag(stage->handles()->handle(Gizmo::Part::middle), at(Vec3d{-0.05, 0, 0.1}), Qt::ShiftModifier);
  EXPECT_NEAR(left().position.y, 0.04, 2e-3);
  EXPECT_NEAR(left().position.z, 0.1, 0.02);
}

TEST_F(OnStage, SeveralMoveTogetherAndAreDuplicatedAndRemoved) {
  window->document().select("left");
  window->document().select("right", true);
  const QPointF tip = stage->handles()->handle(Gizmo::Part::move_y);
  drag(tip, tip + QPointF(0, -30));
  EXPECT_GT(left().position.y, 0.105);
  EXPECT_NEAR(left().position.y, shot().piece("right")->position.y, 1e-9);
  stage->setFocus();
  QTest::keyClick(stage, Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(shot().pieces.size(), 4u);
  EXPECT_EQ(selected().size(), 2u);
  QTest::keyClick(stage, Qt::Key_Delete);
  EXPECT_EQ(shot().pieces.size(), 2u);
  EXPECT_TRUE(selected().empty());
  window->document().undo();
  EXPECT_EQ(shot().pieces.size(), 4u);
  window->document().select("left");
  window->document().show_stage(Stage::picture);
  QTest::keyClick(stage, Qt::Key_Delete);
  EXPECT_EQ(shot().pieces.size(), 4u) << "where it is not seen that it is selected, nothing is removed";
}

TEST_F(OnStage, CComesCloserToWhatIsSelected) {
  const double before = window->document().camera().distance;
  window->document().select("left");
  stage->setFocus();
  QTest::keyClick(stage, Qt::Key_C);
  EXPECT_LT(window->document().camera().distance, before);
  EXPECT_NEAR(window->document().camera().target.x, -0.08, 1e-3);
}

TEST_F(OnStage, CardsAreDuplicatedAndReordered) {
  const auto menu = [&] {
    auto* m = find<QPushButton>("change_pieces.left")->menu();
    Q_EMIT m->aboutToShow();
    return m;
  };
  menu()->findChild<QAction*>("down_pieces.left")->trigger();
  EXPECT_EQ(shot().pieces[1].id, "left");
  QTest::qWait(50);
  menu()->findChild<QAction*>("duplicate_pieces.left")->trigger();
  EXPECT_EQ(shot().pieces.size(), 3u);
  EXPECT_EQ(shot().pieces[2].name, "Left 2");
}

TEST_F(OnStage, APieceTurnsIntoAFluidAtThePlayhead) {
  window->document().edit("water", [](Shot& s) { (void)add_new_fluid<Liquid>(s, "Water"); });
  QTest::qWait(50);
  window->document().set_frame(12);
  auto* menu = find<QPushButton>("change_pieces.left")->menu();
  Q_EMIT menu->aboutToShow();
  auto* turn = menu->findChild<QAction*>("turn_into_water_pieces.left");
  ASSERT_TRUE(turn);
  EXPECT_EQ(turn->text(), "Turn into Water at the playhead");
  turn->trigger();
  const Pour& p = shot().pours.back();
  EXPECT_TRUE(p.replaces_source);
  EXPECT_EQ(p.source.id, "left");
  EXPECT_EQ(p.fill_at.time, Clock(shot()).time(12));
  QTest::qWait(100);
  EXPECT_TRUE(find("card_pours." + QString::fromStdString(p.id))) << "its pour is shown";
  EXPECT_FALSE(window->document().shot_now().piece("left")->shows) << "it has just turned";
  window->document().set_frame(11);
  EXPECT_TRUE(window->document().shot_now().piece("left")->shows);
  window->document().undo();
  EXPECT_FALSE(shot().pours.back().replaces_source);
}

TEST_F(OnStage, ThePiecesAreShownAsTheSolverSeesThem) {
  click("as_solver");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->analyst().now().solver_pieces != nullptr; }, 20000));
  const auto& pieces = *window->analyst().now().solver_pieces;
  ASSERT_EQ(pieces.size(), 2u);
  EXPECT_EQ(pieces[0].surface->colors.size(), pieces[0].surface->mesh.points.size());
  EXPECT_TRUE(QTest::qWaitFor(
      [&] {
        auto* label = seen<QLabel>("readout_left");
        return label && label->text().contains("Left: at most");
      },
      3000));
  click("as_solver");
  EXPECT_EQ(stage->pieces()->front().surface->colors.size(), 0u);
}

namespace {

/// Two boxes in one part, 10 cm high, in place of the balls.
void bring_boxes(Shot& s, const QString& folder) {
  Mesh two = box_mesh({1, 1, 1}), other = box_mesh({1, 1, 1});
  other.place({{}, {2, 0, 0}, 1});
  two.append(other);
  std::string text = "o Pair\n";
  for (const Vec3f& p : two.points)
    text += "v " + std::to_string(p.x) + " " + std::to_string(p.y) + " " + std::to_string(p.z) + "\n";
  for (const auto& t : two.triangles)
    text += "f " + std::to_string(t[0] + 1) + " " + std::to_string(t[1] + 1) + " " +
            std::to_string(t[2] + 1) + "\n";
  const std::string file = (folder + "/boxes.obj").toStdString();
  write_whole(file, text);
  s.pieces.clear();
  (void)bring_in(s, file, "Boxes");
  std::get<Model>(s.pieces[0].shape).height = 0.1, s.pieces[0].position = {0, 0.1, 0};
}

}  // namespace

TEST_F(OnStage, APartUnderThePointerBecomesAPiece) {
  window->document().edit("boxes", [&](Shot& s) { bring_boxes(s, folder.path()); });
  settle();
  const QPoint right = at({0.1, 0.1, 0.05});  // the front of the right one
  QTest::mouseClick(stage, Qt::RightButton, {}, right);
  QTest::qWait(50);
  auto* menu = window->findChild<QMenu*>("stage_menu");
  ASSERT_TRUE(menu && menu->isVisible());
  auto* surface = menu->findChild<QAction*>("part_Pair/2");
  ASSERT_TRUE(surface) << "its sides come after it";
  surface->trigger();
  menu->close();
  ASSERT_EQ(shot().pieces.size(), 2u);
  EXPECT_EQ(std::get<Model>(shot().pieces[1].shape).part, "Pair/2");
  EXPECT_EQ(selected(), std::vector{shot().pieces[1].id});
  window->document().undo();
  EXPECT_EQ(shot().pieces.size(), 1u);
  // Dragged, the right button moves the view and opens nothing.
  QTest::qWait(50);
  QTest::mousePress(stage, Qt::RightButton, {}, right);
  QTest::mouseRelease(stage, Qt::RightButton, {}, right + QPoint(60, 0));
  QTest::qWait(50);
  EXPECT_FALSE(window->findChild<QMenu*>("stage_menu"));
}

TEST_F(OnStage, NormalsAreDrawnOfWhatIsSelected) {
  const auto yellow = [&] {  // pixels of the lines
    const QImage picture = stage->grab().toImage();
    int n = 0;
    for (int y = 0; y < picture.height(); ++y)
      for (int x = 0; x < picture.width(); ++x) {
        const QColor c = picture.pixelColor(x, y);
        n += std::abs(c.red() - 0xF2) < 8 && std::abs(c.green() - 0xC1) < 8 && std::abs(c.blue() - 0x4E) < 8;
      }
    return n;
  };
  click_at(at(left().position + Vec3d{0, 0.025, 0}));
  EXPECT_EQ(yellow(), 0);
  click("normals");
  EXPECT_TRUE(QTest::qWaitFor([&] { return yellow() > 50; }, 3000));
  click("normals");
  EXPECT_TRUE(QTest::qWaitFor([&] { return yellow() == 0; }, 3000));
}

TEST_F(OnStage, AFileThatChangesIsTakenAnew) {
  window->document().edit("boxes", [&](Shot& s) { bring_boxes(s, folder.path()); });
  settle();
  EXPECT_TRUE(gone("checks") || !window->analyst().now().checks.empty());
  const size_t before = window->analyst().now().checks.size();
  write_whole((folder.path() + "/boxes.obj").toStdString(),
              "v 0 0 0\nv 2 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\nf 3 1 4\n");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->analyst().now().checks.size() == before + 1; }, 10000))
      << "nobody had to touch the shot";
  const auto& checks = window->analyst().now().checks;
  const auto found = std::find_if(checks.begin(), checks.end(),
                                  [](const Check& c) { return c.title.find("boxes.obj") == 0; });
  ASSERT_NE(found, checks.end());
  click("checks");
  click(QString("fix_%1").arg(found - checks.begin()));
  arrive();
  EXPECT_EQ(bodies_of(shot().pieces[0].shape)->front().mesh.triangles.size(), 4u);
  settle();
  EXPECT_EQ(window->analyst().now().checks.size(), before);
  window->document().undo();
  EXPECT_EQ(bodies_of(shot().pieces[0].shape)->front().mesh.triangles.size(), 24u);
}
