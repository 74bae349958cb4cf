// The real window, driven as a person would: under a screen (Xvfb does), with mouse and keyboard events.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <QAction>
#include <QApplication>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QOpenGLWidget>
#include <QPushButton>
#include <QSignalSpy>
#include <QSlider>
#include <QTemporaryDir>
#include <QTest>

#include "base/file.h"
#include "main_window.h"
#include "recipe/deliver_box.h"
#include "recipe/recipe_panel.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "theme.h"
#include "time/time_strip.h"
#include "view/viewport.h"

using namespace pour;
using testing::HasSubstr;

namespace {

class Window : public testing::Test {
 protected:
  QTemporaryDir folder;
  std::unique_ptr<MainWindow> window;
  QString file;

  void SetUp() override {
    Shot s = recipes().front().make();
    s.pieces[0].text = "OI";
    s.film.frames = 12;
    s.smokes[0].pour = {1, 8};
    s.run.detail = Detail::custom, s.run.cell_size = 0.005;
    file = folder.filePath("word.pour");
    save_shot(s, file.toStdString());
    window = std::make_unique<MainWindow>();
    show();
    ASSERT_TRUE(window->open(file));
    settle();
  }
  void show() {
    window->show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(window.get()));
    QApplication::setActiveWindow(window.get());  // there is no window manager to do it
  }
  void settle() {
    QTest::qWait(20);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !window->analyst().busy(); }, 30000));
    QTest::qWait(20);
  }
  template <class T = QWidget>
  T* seen(const QString& name) {
    for (T* w : window->findChildren<T*>(name))
      if (w->isVisible()) return w;
    return nullptr;
  }
  template <class T = QWidget>
  T* find(const QString& name) {  // once it comes up
    (void)QTest::qWaitFor([&] { return seen<T>(name) != nullptr; }, 3000);
    return seen<T>(name);
  }
  bool gone(const QString& name) {
    return QTest::qWaitFor([&] { return !seen(name); }, 3000);
  }
  void click(const QString& name) {
    auto* w = find(name);
    ASSERT_TRUE(w) << name.toStdString();
    QTest::mouseClick(w, Qt::LeftButton);
    QTest::qWait(30);
  }
  void type(const QString& name, const QString& text) {
    auto* field = find<QLineEdit>(name);
    ASSERT_TRUE(field) << name.toStdString();
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
    QTest::qWait(30);
  }
  const Shot& shot() { return window->document().shot(); }
  void run_to_the_end() {
    click("run");
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() != Runs::State::idle; }, 5000))
        << window->notice().toStdString();
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 120000));
  }
};

}  // namespace

TEST_F(Window, OpensWithTheFluidStepAndNamesEveryControl) {
  EXPECT_TRUE(find("card_mint"));
  EXPECT_TRUE(find("run")->isEnabled());
  for (const auto* w : window->findChildren<QWidget*>()) {
    if (!w->isVisible() || (w->focusPolicy() & Qt::TabFocus) == 0) continue;
    const auto* button = qobject_cast<const QAbstractButton*>(w);
    const bool named = !w->accessibleName().isEmpty() || (button && !button->text().isEmpty()) ||
                       w->inherits("QScrollArea") || w->inherits("QLabel") ||
                       qobject_cast<const QComboBox*>(w->parentWidget());
    EXPECT_TRUE(named) << w->metaObject()->className() << " " << w->objectName().toStdString();
  }
}

TEST_F(Window, TypesAnotherWordAndUndoesIt) {
  click("step_1");
  EXPECT_EQ(window->document().stage(), Stage::set) << "the stage follows the step";
  type("pieces.word.text", "POUR");
  EXPECT_EQ(shot().pieces[0].text, "POUR");
  type("pieces.word.letter_size", "12 cm");
  EXPECT_DOUBLE_EQ(shot().pieces[0].letter_size, 0.12);
  QTest::keySequence(window.get(), QKeySequence::Undo);
  EXPECT_DOUBLE_EQ(shot().pieces[0].letter_size, 0.1);
  QTest::keySequence(window.get(), QKeySequence::Undo);
  EXPECT_EQ(shot().pieces[0].text, "OI");
  QTest::keySequence(window.get(), QKeySequence::Redo);
  EXPECT_EQ(shot().pieces[0].text, "POUR");
  settle();
  EXPECT_TRUE(window->analyst().now().ok);
}

TEST_F(Window, BadValuesAreExplainedAndLoseNothing) {
  type("smokes.mint.density_rate", "a lot");
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("not a number"));
  EXPECT_EQ(find<QLineEdit>("smokes.mint.density_rate")->text(), "20 g/m³·s") << "the old value is back";
  type("smokes.mint.heat", "9000");
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("out of range"));
  EXPECT_DOUBLE_EQ(shot().smokes[0].heat, recipes().front().make().smokes[0].heat);
}

TEST_F(Window, SentenceValuesAreEditedInPlace) {
  click("token_smokes.mint.pour");
  auto* popup = QApplication::activePopupWidget();
  ASSERT_TRUE(popup);
  auto* field = popup->findChild<QLineEdit*>("popup_smokes.mint.pour");
  ASSERT_TRUE(field);
  field->selectAll();
  QTest::keyClicks(field, "2-6");
  QTest::keyClick(field, Qt::Key_Return);
  QTest::qWait(50);
  EXPECT_EQ(shot().smokes[0].pour, (FrameRange{2, 6}));
  if (auto* left = QApplication::activePopupWidget()) left->close();
  QTest::qWait(30);
  click("token_smokes.mint.seed_place");
  auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
  ASSERT_TRUE(menu);
  ASSERT_EQ(menu->actions().size(), 3);
  menu->actions()[1]->trigger();
  menu->close();
  QTest::qWait(30);
  EXPECT_EQ(shot().smokes[0].seed_place, SeedPlace::centre);
}

TEST_F(Window, SlidersMoveTheValueAsOneUndo) {
  QSlider* slider = nullptr;
  for (auto* s : window->findChildren<QSlider*>())
    if (s->isVisible() && s->accessibleName() == "Warmth") slider = s;
  ASSERT_TRUE(slider);
  slider->setFocus();
  for (int i = 0; i < 5; ++i) QTest::keyClick(slider, Qt::Key_Right);
  EXPECT_GT(shot().smokes[0].heat, 40);
  window->document().undo();
  EXPECT_DOUBLE_EQ(shot().smokes[0].heat, 40);
}

TEST_F(Window, PiecesAndSmokesComeAndGo) {
  click("step_1");
  auto* add = find<QPushButton>("add_piece");
  ASSERT_TRUE(add && add->menu());
  add->menu()->actions()[1]->trigger();
  QTest::qWait(50);
  ASSERT_EQ(shot().pieces.size(), 2u);
  EXPECT_TRUE(find("card_ball"));
  click("step_2");
  click("add_smoke");
  ASSERT_EQ(shot().smokes.size(), 2u);
  EXPECT_EQ(shot().smokes[1].source, "ball") << "the new smoke takes the ball that guides as its source";
  click("remove_mint");
  ASSERT_EQ(shot().smokes.size(), 1u);
  EXPECT_TRUE(gone("card_mint"));
  window->document().undo();
  QTest::qWait(50);
  EXPECT_TRUE(find("card_mint"));
}

TEST_F(Window, RunsShowsAndDelivers) {
  run_to_the_end();
  EXPECT_EQ(window->notice().toStdString(), "");
  ASSERT_TRUE(window->runs().chosen());
  EXPECT_EQ(window->runs().chosen()->state, RunState::done);
  EXPECT_EQ(window->runs().frames_done(), 12);
  EXPECT_TRUE(find("run_001"));
  window->document().set_frame(12);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 10000));
  EXPECT_FALSE(window->frames().current()->empty());
  EXPECT_THAT(find<QLabel>("readout_right")->text().toStdString(), HasSubstr("mg of smoke"));

  // Playing comes to later frames by itself.
  window->document().set_frame(1);
  QTest::keyClick(window.get(), Qt::Key_Space);
  EXPECT_TRUE(QTest::qWaitFor([&] { return window->document().frame() > 3; }, 10000));
  QTest::keyClick(window.get(), Qt::Key_Space);

  // The stage shows smoke: its pixels differ from those of the empty first frame.
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  const auto grab = [&](int frame) {
    window->document().set_frame(frame);
    EXPECT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 10000));
    QTest::qWait(400);
    return viewport->grab().toImage();
  };
  EXPECT_NE(grab(12), grab(1));

  // Step seven: a video, and images.
  click("step_7");
  EXPECT_EQ(window->document().stage(), Stage::picture);
  window->document().edit("size", [](Shot& s) { s.film.width = 160, s.film.height = 90; });
  auto* box = window->findChild<DeliverBox*>();
  ASSERT_TRUE(box && box->isVisible());
  QSignalSpy done(box, &DeliverBox::finished);
  box->make_video(folder.filePath("out.mp4"));
  ASSERT_TRUE(done.wait(60000));
  EXPECT_TRUE(done[0][0].toBool()) << done[0][1].toString().toStdString();
  EXPECT_GT(fs::file_size(folder.filePath("out.mp4").toStdString()), 1000u);
  box->make_images(folder.filePath("pictures"));
  ASSERT_TRUE(done.wait(60000));
  EXPECT_EQ(std::distance(fs::directory_iterator(folder.filePath("pictures").toStdString()),
                          fs::directory_iterator{}),
            12);
  box->make_images("/proc/nowhere");
  ASSERT_TRUE(done.wait(60000));
  EXPECT_FALSE(done[2][0].toBool());
  EXPECT_THAT(done[2][1].toString().toStdString(), HasSubstr("Choose a folder"));

  // Changed and run again: the drawer says what was changed.
  window->document().edit("heat", [](Shot& s) { s.smokes[0].heat = 45, s.film.frames = 4; });
  run_to_the_end();
  auto* card = find("run_002");
  ASSERT_TRUE(card);
  QString words;
  for (const auto* l : card->findChildren<QLabel*>()) words += l->text() + "\n";
  EXPECT_THAT(words.toStdString(), HasSubstr("Warmth 40 °C → 45 °C"));

  // Closed and opened again: everything is there, runs included.
  const Shot before = shot();
  window.reset();
  window = std::make_unique<MainWindow>();
  show();
  ASSERT_TRUE(window->open(file));
  EXPECT_EQ(shot(), before);
  EXPECT_EQ(window->runs().all().size(), 2u);
}

TEST_F(Window, PausesStopsAndResumes) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 200, s.run.cell_size = 0.004; });
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 3; }, 60000))
      << window->notice().toStdString();
  click("pause");
  EXPECT_EQ(window->runs().state(), Runs::State::paused);
  QTest::qWait(300);
  const int held = window->runs().current_frame();
  QTest::qWait(700);
  EXPECT_LE(window->runs().current_frame(), held) << "nothing moves while it is paused";
  window->document().set_frame(2);
  EXPECT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 10000))
      << "finished frames can be watched: shown " << window->frames().current_frame() << ", wanted "
      << window->document().frame() << ", done " << window->runs().frames_done();
  click("pause");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() > held; }, 60000));
  click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
  EXPECT_EQ(window->runs().chosen()->state, RunState::stopped);
  const int stopped = window->runs().frames_done();
  ASSERT_LT(stopped, 200);
  click("resume");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() > stopped; }, 60000))
      << window->notice().toStdString();
  EXPECT_EQ(window->runs().all().size(), 1u) << "it goes on in the same run";
  click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
}

TEST_F(Window, PourWindowIsDraggedInTheTimeStrip) {
  auto* strip = find<TimeStrip>("time_strip");
  ASSERT_TRUE(strip);
  const auto drag = [&](double from, double to) {
    const int y = strip->lane_y(0) + 14;
    QTest::mousePress(strip, Qt::LeftButton, {}, QPoint(int(strip->x_of(from)), y));
    QMouseEvent move(QEvent::MouseMove, QPointF(strip->x_of(to), y),
                     strip->mapToGlobal(QPointF(strip->x_of(to), y)), Qt::NoButton, Qt::LeftButton, {});
    QApplication::sendEvent(strip, &move);
    QTest::mouseRelease(strip, Qt::LeftButton, {}, QPoint(int(strip->x_of(to)), y));
  };
  drag(8, 10);
  EXPECT_EQ(shot().smokes[0].pour, (FrameRange{1, 10}));
  drag(1, 4);
  EXPECT_EQ(shot().smokes[0].pour, (FrameRange{4, 10}));
  drag(7, 5);
  EXPECT_EQ(shot().smokes[0].pour, (FrameRange{2, 8}));
  window->document().undo();
  EXPECT_EQ(shot().smokes[0].pour, (FrameRange{4, 10})) << "one drag, one undo";
  strip->setFocus();
  QTest::keyClick(strip, Qt::Key_Right);
  EXPECT_EQ(window->document().frame(), 2);
}

TEST_F(Window, LooksAroundAndKeepsTheView) {
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  viewport->setFocus();
  const Camera before = shot().camera;
  QTest::keyClick(viewport, Qt::Key_Right);
  ASSERT_TRUE(window->document().own_view());
  EXPECT_EQ(shot().camera, before) << "looking around does not touch the shot";
  click("back_to_camera");
  EXPECT_FALSE(window->document().own_view());
  QTest::keyClick(viewport, Qt::Key_Up);
  click("keep_view");
  EXPECT_NE(shot().camera, before);
  window->document().undo();
  EXPECT_EQ(shot().camera, before);
}

TEST_F(Window, ChecksAreMendedByTheirButton) {
  window->document().edit("late", [](Shot& s) { s.smokes[0].pour = {100, 120}; });
  settle();
  click("checks");
  click("fix_0");
  EXPECT_EQ(shot().smokes[0].pour.first, 1);
  settle();
  EXPECT_TRUE(gone("checks")) << "the badge is gone when all is fine";
}

TEST_F(Window, FilesThatCannotBeOpenedOrSavedLoseNothing) {
  const QString bad = folder.filePath("bad.pour");
  write_whole(bad.toStdString(), "{ nonsense");
  const Shot before = shot();
  EXPECT_FALSE(window->open(bad));
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("bad.pour"));
  EXPECT_EQ(shot(), before);
  EXPECT_THROW(window->document().save("/no/such/folder/x.pour"), std::exception);
  EXPECT_EQ(shot(), before);
}

TEST_F(Window, StaysUsableWithoutOpenGl) {
  qputenv("EASY_POUR_NO_OPENGL", "1");
  window = std::make_unique<MainWindow>();
  show();
  ASSERT_TRUE(window->open(file));
  settle();
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  EXPECT_FALSE(viewport->has_gl());
  EXPECT_THAT(find<QLabel>("readout_left")->text().toStdString(), HasSubstr("OpenGL is missing"));
  QTest::qWait(1500);
  const QImage picture = viewport->grab().toImage();
  EXPECT_NE(picture.pixel(picture.width() / 2, picture.height() / 3), picture.pixel(4, picture.height() - 60))
      << "the studio is drawn";
  qunsetenv("EASY_POUR_NO_OPENGL");
}

TEST(Theme, TextKeepsItsContrast) {
  // WCAG 2.1, success criterion 1.4.3: 4.5 to 1, with the relative luminance of its definition.
  const auto luminance = [](const QColor& c) {
    const auto f = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * f(c.redF()) + 0.7152 * f(c.greenF()) + 0.0722 * f(c.blueF());
  };
  for (const bool dark : {true, false}) {
    apply_theme(*qApp, dark);
    const Theme& t = theme();
    for (const QColor& back : {t.panel, t.side})
      for (const QColor& front : {t.text, t.quiet, t.accent, t.fault, t.warning, t.fine}) {
        const double a = luminance(front), b = luminance(back);
        EXPECT_GE((std::max(a, b) + 0.05) / (std::min(a, b) + 0.05), 4.5)
            << front.name().toStdString() << " on " << back.name().toStdString();
      }
  }
}

int main(int argc, char** argv) {
  testing::InitGoogleTest(&argc, argv);
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  QSurfaceFormat::setDefaultFormat(format);
  QApplication app(argc, argv);
  apply_theme(app, false);
  return RUN_ALL_TESTS();
}
