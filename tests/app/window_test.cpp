// The real window, driven as a person would: under a screen (Xvfb does), with mouse and keyboard events.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <sys/wait.h>
#include <unistd.h>
#include <csignal>
#include <QAction>
#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QDragEnterEvent>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QProcess>
#include <QPushButton>
#include <QSignalSpy>
#include <QSlider>
#include <QTemporaryDir>
#include <QTest>
#include <QTimer>
#include <QWheelEvent>
#include <set>

#include "app/window_fixture.h"
#include "base/file.h"
#include "main_window.h"
#include "picture/quick_picture.h"
#include "recipe/card.h"
#include "recipe/deliver_box.h"
#include "recipe/recipe_panel.h"
#include "run/arc.h"
#include "run/checkpoint.h"
#include "run/run_lock.h"
#include "run/space.h"
#include "shot/arrival.h"
#include "shot/assign.h"
#include "shot/describe.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "start/new_shot_dialog.h"
#include "theme.h"
#include "time/strip_measures.h"
#include "time/time_strip.h"
#include "view/viewport.h"

using namespace pour;
using testing::HasSubstr;

TEST_F(Window, OpensWithTheFluidStepAndNamesEveryControl) {
  EXPECT_TRUE(find("card_fluids.mint"));
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
  EXPECT_EQ(std::get<Lettering>(shot().pieces[0].shape).text, "POUR");
  type("pieces.word.letter_height", "12 cm");
  EXPECT_DOUBLE_EQ(std::get<Lettering>(shot().pieces[0].shape).letter_size, 0.12);
  QTest::keySequence(window.get(), QKeySequence::Undo);
  EXPECT_DOUBLE_EQ(std::get<Lettering>(shot().pieces[0].shape).letter_size, 0.1);
  QTest::keySequence(window.get(), QKeySequence::Undo);
  EXPECT_EQ(std::get<Lettering>(shot().pieces[0].shape).text, "OI");
  QTest::keySequence(window.get(), QKeySequence::Redo);
  EXPECT_EQ(std::get<Lettering>(shot().pieces[0].shape).text, "POUR");
  settle();
  EXPECT_TRUE(window->analyst().now().ok);
}

TEST_F(Window, BadValuesAreExplainedAndLoseNothing) {
  const QString before = find<QLineEdit>("pours.mint.density_rate")->text();
  EXPECT_THAT(before.toStdString(), HasSubstr("g/m³·s"));
  type("pours.mint.density_rate", "a lot");
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("not a number"));
  EXPECT_EQ(find<QLineEdit>("pours.mint.density_rate")->text(), before) << "the old value is back";
  EXPECT_EQ(find<QLineEdit>("gas.density_half_life")->text(), "never") << "not “0 s”, which reads as at once";
  type("gas.density_half_life", "3 s");
  EXPECT_EQ(shot().gas.density_half_life, 3);
  type("gas.density_half_life", "never");
  EXPECT_EQ(shot().gas.density_half_life, 0);
  type("pours.mint.warmth", "9000");
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("out of range"));
  EXPECT_DOUBLE_EQ(shot().pours[0].heat, recipes().front().make().pours[0].heat);
}

TEST_F(Window, SentenceValuesAreEditedInPlace) {
  click("token_pours.mint.windows");
  auto* popup = QApplication::activePopupWidget();
  ASSERT_TRUE(popup);
  auto* field = popup->findChild<QLineEdit*>("popup_pours.mint.windows");
  ASSERT_TRUE(field);
  field->selectAll();
  QTest::keyClicks(field, "2-6");
  QTest::keyClick(field, Qt::Key_Return);
  QTest::qWait(50);
  EXPECT_EQ(frames_of(0), (FrameRange{2, 6}));
  if (auto* left = QApplication::activePopupWidget()) left->close();
  QTest::qWait(30);
  click("token_pours.mint.seed_place");
  auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
  ASSERT_TRUE(menu);
  ASSERT_EQ(menu->actions().size(), seed_places);
  EXPECT_FALSE(menu->actions()[0]->isEnabled()) << "the only place stays";
  menu->actions()[1]->trigger();
  menu->close();
  QTest::qWait(30);
  EXPECT_EQ(shot().pours[0].seed_place, (Choices{0b11})) << "low and in the centre";
  EXPECT_EQ(find<QPushButton>("token_pours.mint.seed_place")->text(), "low and in the centre");
}

TEST_F(Window, SlidersMoveTheValueAsOneUndo) {
  QSlider* slider = nullptr;
  for (auto* s : window->findChildren<QSlider*>())
    if (s->isVisible() && s->accessibleName() == "Warmth") slider = s;
  ASSERT_TRUE(slider);
  slider->setFocus();
  const double before = shot().pours[0].heat;
  for (int i = 0; i < 5; ++i) QTest::keyClick(slider, Qt::Key_Right);
  EXPECT_GT(shot().pours[0].heat, before);
  window->document().undo();
  EXPECT_DOUBLE_EQ(shot().pours[0].heat, before);
}

TEST_F(Window, TheWheelScrollsAndChangesNothing) {
  const Shot before = shot();
  QSlider* slider = nullptr;
  for (auto* s : window->findChildren<QSlider*>())
    if (s->isVisible() && s->accessibleName() == "Warmth") slider = s;
  auto* list = find<QComboBox>("pours.mint.direction");
  ASSERT_TRUE(slider && list);
  for (QWidget* w : {static_cast<QWidget*>(slider), static_cast<QWidget*>(list)}) {
    const QPoint middle = w->rect().center();
    QWheelEvent wheel(middle, w->mapToGlobal(middle), {}, {0, -240}, Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(w, &wheel);
    EXPECT_FALSE(wheel.isAccepted()) << "it goes on to what scrolls";
  }
  EXPECT_EQ(shot(), before);
}

TEST_F(Window, PiecesAndSmokesComeAndGo) {
  click("step_1");
  auto* add = find<QPushButton>("add_piece");
  ASSERT_TRUE(add && add->menu());
  add->menu()->actions()[1]->trigger();
  QTest::qWait(50);
  ASSERT_EQ(shot().pieces.size(), 2u);
  EXPECT_TRUE(find("card_pieces.ball"));
  EXPECT_TRUE(shot().pieces[1].blocks && shot().pieces[1].shows) << "as a new piece of any kind";
  window->document().edit("guide", [](Shot& s) { s.pieces[1].blocks = s.pieces[1].shows = false; });
  click("step_2");
  click("add_smoke");
  QTest::qWait(50);
  ASSERT_EQ(shot().pours.size(), 2u);
  EXPECT_EQ(shot().pours[1].source.id, "ball") << "the new smoke takes the ball that guides as its source";
  click("add_liquid");
  QTest::qWait(50);
  ASSERT_TRUE(shot().fluids.back().as<Liquid>());
  ASSERT_EQ(shot().pours.size(), 3u);
  EXPECT_TRUE(find("card_fluids." + QString::fromStdString(shot().fluids.back().id)));
  window->document().undo();
  QTest::qWait(50);
  click("remove_fluids.mint");
  ASSERT_EQ(shot().pours.size(), 1u);
  EXPECT_TRUE(gone("card_fluids.mint"));
  window->document().undo();
  QTest::qWait(50);
  EXPECT_TRUE(find("card_fluids.mint"));
}

TEST_F(Window, ARunGoesOnFromThePlayheadOfAnEarlierOne) {
  run_to_the_end();
  window->document().set_frame(12);
  window->document().edit("Longer", [](Shot& s) { s.film.frames = 14; });
  click("go_on_001");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() != Runs::State::idle; }, 5000))
      << window->notice().toStdString();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 120000));
  EXPECT_EQ(window->notice().toStdString(), "");
  ASSERT_TRUE(window->runs().chosen());
  EXPECT_EQ(window->runs().chosen()->number(), 2);
  EXPECT_EQ(window->runs().frames_done(), 14);
  EXPECT_EQ(window->runs().chosen()->record(12)->id, window->runs().all()[1].record(12)->id)
      << "its frames up to there are those of the first";
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
  EXPECT_FALSE(window->frames().current().smoke->empty());
  EXPECT_THAT(find<QLabel>("readout_right")->text().toStdString(), HasSubstr("mg of smoke, "));

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

  // Traced, on the stage and in what is delivered.
  click("trace");
  const auto* canvas = &viewport->canvas();
  EXPECT_TRUE(QTest::qWaitFor([&] { return canvas->traced() >= 2; }, 60000));
  click("trace");
  EXPECT_TRUE(QTest::qWaitFor([&] { return canvas->traced() == 0; }, 10000));
  auto* quality = find<QComboBox>("deliver_quality");
  ASSERT_TRUE(quality);
  EXPECT_EQ(quality->currentIndex(), 0);
  window->document().set("film.samples", "3");
  EXPECT_THAT(quality->currentText().toStdString(), HasSubstr("3 paths"));
  window->document().edit("size", [](Shot& s) { s.film.width = 32, s.film.height = 18; });
  box->make_images(folder.filePath("traced"));
  ASSERT_TRUE(done.wait(60000));
  EXPECT_TRUE(done[3][0].toBool()) << done[3][1].toString().toStdString();
  click("deliver_test");
  ASSERT_TRUE(done.wait(60000));
  EXPECT_GT(fs::file_size(folder.filePath("word-test.mp4").toStdString()), 500u) << "in one click";
  window->document().undo(), window->document().undo();

  // Changed and run again: the drawer says what was changed.
  window->document().edit("heat", [](Shot& s) { s.pours[0].heat = 45, s.film.frames = 4; });
  run_to_the_end();
  auto* card = find("run_002");
  ASSERT_TRUE(card);
  QString words;
  for (const auto* l : card->findChildren<QLabel*>()) words += l->text() + "\n";
  EXPECT_THAT(words.toStdString(), HasSubstr("Warmth 20 °C → 45 °C"));

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

namespace {

/// Presses the button of the message box that comes up next, by its words.
void answer(const QString& words) {
  QTimer::singleShot(200, [words] {
    auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
    ASSERT_TRUE(box) << "nothing was asked";
    for (auto* b : box->buttons())
      if (b->text().contains(words)) return b->click();
    box->reject();
    FAIL() << "no such answer: " << words.toStdString();
  });
}

bool is_alive(qint64 process) { return ::kill(pid_t(process), 0) == 0; }

}  // namespace

TEST_F(Window, ResumesTheRunThatIsChosen) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 200; });
  const auto run_and_stop = [&] {
    click("run");
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 3; }, 60000));
    click("stop");
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
  };
  run_and_stop();
  run_and_stop();
  ASSERT_EQ(window->runs().all().size(), 2u);
  const int of_second = window->runs().all()[0].newest_frame(),
            of_first = window->runs().all()[1].newest_frame();
  window->runs().choose("001");
  click("resume");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() > of_first; }, 60000));
  EXPECT_TRUE(window->runs().under_way("001"));
  EXPECT_FALSE(window->runs().under_way("002"));
  click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
  EXPECT_EQ(window->runs().all()[0].newest_frame(), of_second);

  // A frame that is lost is seen to be, refused in a film, held where that is wished, and computed again.
  const pour::Run* run = window->runs().chosen();
  ASSERT_EQ(run->name(), "001");
  fs::remove(run->frame_file(2));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window->runs().chosen()->has_frame(2); }, 10000))
      << "the disk is watched";
  click("step_7");
  auto* box = window->findChild<DeliverBox*>();
  QSignalSpy done(box, &DeliverBox::finished);
  box->make_images(folder.filePath("pictures"));
  ASSERT_TRUE(done.wait(60000));
  EXPECT_FALSE(done[0][0].toBool());
  EXPECT_THAT(done[0][1].toString().toStdString(), HasSubstr("missing or torn: 2"));
  ASSERT_TRUE(find("deliver_hold"));
}

TEST_F(Window, ClosingAsksWhatBecomesOfARun) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 400; });
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 2; }, 60000));
  answer("Cancel");
  EXPECT_FALSE(window->close());
  EXPECT_EQ(window->runs().state(), Runs::State::running);
  answer("Stop it");
  EXPECT_FALSE(window->close()) << "what there is is stored first";
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window->isVisible(); }, 60000));
  const pour::Run run = load_run(folder.filePath("word.runs/001").toStdString());
  EXPECT_EQ(run.state, RunState::stopped);
  EXPECT_TRUE(has_checkpoint(run));
}

TEST_F(Window, ARunMayGoOnWithoutItsWindow) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 60; });
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 2; }, 60000));
  const fs::path place = folder.filePath("word.runs/001").toStdString();
  const auto writer = writer_of(place);
  ASSERT_TRUE(writer);
  answer("Let it go on");
  EXPECT_TRUE(window->close());
  window.reset();
  EXPECT_TRUE(is_alive(writer->process));

  // Opened again, it is known to be computed by somebody else, followed, and may be stopped.
  window = std::make_unique<MainWindow>();
  show();
  ASSERT_TRUE(window->open(file));
  EXPECT_TRUE(window->runs().by_another("001"));
  EXPECT_FALSE(window->runs().can_resume());
  EXPECT_FALSE(window->runs().remove("001")) << "not while it is written";
  const int had = window->runs().frames_done();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().frames_done() > had; }, 60000));
  if (window->runs().can_stop()) click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return !window->runs().under_way("001"); }, 60000));
  EXPECT_THAT(load_run(place).state, testing::AnyOf(RunState::stopped, RunState::done));
}

// A window that is closed by force takes nothing with it, and leaves nothing that waits for ever.
TEST_F(Window, APausedRunGoesOnWhenItsWindowIsGone) {
  const fs::path shot_file = file.toStdString();
  Shot s = load_shot(shot_file);
  s.film.frames = 6;
  save_shot(s, shot_file);
  // A child of this process stands in for the window; it pauses the run and dies.
  int pipe_ends[2];
  ASSERT_EQ(::pipe(pipe_ends), 0);
  const pid_t owner = ::fork();
  if (owner == 0) {
    const pid_t run = ::fork();
    if (run == 0) {
      ::dup2(pipe_ends[1], 1);
      ::close(pipe_ends[0]), ::close(pipe_ends[1]);
      const std::string program = (QCoreApplication::applicationDirPath() + "/easy-pour-cli").toStdString();
      ::execl(program.c_str(), program.c_str(), "run", shot_file.c_str(), "--background", "--progress",
              "json", nullptr);
      ::_exit(9);
    }
    char first = 0;
    (void)!::read(pipe_ends[0], &first, 1);  // it has begun
    ::kill(run, SIGSTOP);
    ::_exit(0);
  }
  ::close(pipe_ends[0]), ::close(pipe_ends[1]);
  int status = 0;
  ::waitpid(owner, &status, 0);
  const fs::path place = runs_folder(shot_file) / "001";
  EXPECT_TRUE(QTest::qWaitFor(
      [&] {
        try {
          return load_run(place).state == RunState::done;
        } catch (const Fault&) {
          return false;
        }
      },
      60000));
}

TEST_F(Window, RunsOfOtherProgramsAppear) {
  QProcess cli;
  cli.start(QCoreApplication::applicationDirPath() + "/easy-pour-cli", {"run", file, "--frames", "1-3"});
  ASSERT_TRUE(cli.waitForFinished(60000));
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().all().size() == 1; }, 10000));
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().frames_done() == 3; }, 10000));
  // One that is torn is named, and can be put away.
  write_whole(window->runs().chosen()->folder / "run.json", "{");
  window->runs().reload();
  EXPECT_TRUE(window->runs().all().empty());
  auto* card = find("bad_001");
  ASSERT_TRUE(card);
  QString words;
  for (const auto* l : card->findChildren<QLabel*>()) words += l->text();
  EXPECT_THAT(words.toStdString(), testing::AllOf(HasSubstr("Run 1 can't be read"), HasSubstr("run.json")));
}

TEST_F(Window, ARunInThePlaceOfADeletedOneShowsItsOwnFrames) {
  run_to_the_end();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 20000));
  const auto old = window->frames().current().smoke;
  fs::remove_all(folder.filePath("word.runs").toStdString());  // all of it, numbers included
  window->document().edit("heat", [](Shot& s) { s.pours[0].density_rate *= 3; });
  run_to_the_end();
  EXPECT_EQ(window->runs().chosen()->name(), "001");
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return window->frames().ready() && window->frames().current().smoke != old; }, 20000));
  EXPECT_NE(window->frames().current().smoke->front().rgba, old->front().rgba);
}

TEST_F(Window, AnArrowAimsAPour) {
  click("step_1");
  window->document().edit("tea", [](Shot& s) { s = find_recipe("tea-into-a-bowl").make(); });
  settle();
  auto* stage = find<Viewport>("viewport");
  ASSERT_EQ(window->document().stage(), Stage::set);
  const Arc arc = arc_of(shot(), shot().pours[0], 1);
  ASSERT_GT(arc.at.size(), 2u);
  const Vec3d from = arc.at[0], tip = from + normalized(arc.velocity) * 0.06;
  const QPoint at = stage->to_screen(tip).toPoint(),
               up = stage->to_screen(from + Vec3d{0.045, 0.05, 0}).toPoint();
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QMouseEvent e(QEvent::MouseMove, QPointF(up), stage->mapToGlobal(QPointF(up)), Qt::NoButton, Qt::LeftButton,
                {});
  QApplication::sendEvent(stage, &e);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, up);
  const Pour& pour = shot().pours[0];
  EXPECT_EQ(pour.direction, Direction::own);
  EXPECT_GT(pour.aim.y, 0.3) << "now it looks up";
  EXPECT_GT(pour.aim.x, 0.3);
  EXPECT_GT(arc_of(shot(), pour, 1).velocity.y, 0);
  window->document().undo();
  EXPECT_EQ(shot().pours[0].direction, Direction::outwards) << "one drag, one undo";

  // With Control it comes to what is under the pointer, if it is fast enough for that.
  window->document().edit("faster", [](Shot& s) { s.pours[0].speed = 1; });
  settle();
  const Vec3d target{0.035, 0.03, 0.03};  // in the bowl
  const QPoint there = stage->to_screen(target).toPoint();
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QMouseEvent on(QEvent::MouseMove, QPointF(there), stage->mapToGlobal(QPointF(there)), Qt::NoButton,
                 Qt::LeftButton, Qt::ControlModifier);
  QApplication::sendEvent(stage, &on);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, there);
  const auto seen = stage->what_is_at(there);
  ASSERT_TRUE(seen);
  double nearest = 1;
  for (const Vec3d& p : arc_of(shot(), shot().pours[0], 1, 200).at)
    nearest = std::min(nearest, length(p - seen->at));
  EXPECT_LT(nearest, 0.004);
}

TEST_F(Window, UndoWhileAPieceIsDraggedEndsTheDrag) {
  click("step_1");
  window->document().edit("new", [](Shot& s) {
    Piece p = s.pieces[0];
    p.id = "second", p.name = "Second", p.shape = Ball(), p.position = {0.1, 0.2, 0};
    s.pieces.push_back(p);
    Pour m = s.pours[0];
    m.id = "more", m.name = "More";
    s.pours.push_back(m);
  });
  settle();
  auto* stage = find<Viewport>("viewport");
  const QPoint at = stage->to_screen({0.1, 0.2, 0}).toPoint();
  const auto move = [](QWidget* w, const QPoint& to) {
    QMouseEvent e(QEvent::MouseMove, QPointF(to), w->mapToGlobal(QPointF(to)), Qt::NoButton, Qt::LeftButton,
                  {});
    QApplication::sendEvent(w, &e);
  };
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  move(stage, at + QPoint(10, 0));
  EXPECT_GT(shot().pieces[1].position.x, 0.1);
  window->document().undo(), window->document().undo();
  ASSERT_EQ(shot().pieces.size(), 1u);
  const Vec3d first = shot().pieces[0].position;
  move(stage, at + QPoint(30, 0));
  EXPECT_EQ(shot().pieces[0].position, first) << "another piece is not moved instead";
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at);

  window->document().redo();
  auto* strip = find<TimeStrip>("time_strip");
  const QPoint bar(int(strip->x_of(4)), strip->lanes().at(2).top + 14);
  QTest::mousePress(strip, Qt::LeftButton, {}, bar);
  move(strip, bar + QPoint(20, 0));
  while (window->document().can_undo()) window->document().undo();
  const Span pour = shot().pours[0].windows.list[0];
  move(strip, bar + QPoint(60, 0));
  EXPECT_EQ(shot().pours[0].windows.list[0], pour);
  QTest::mouseRelease(strip, Qt::LeftButton, {}, bar);
}

TEST_F(Window, EachDragOfASliderIsAnUndo) {
  click("step_3");
  QSlider* slider = nullptr;
  ASSERT_TRUE(QTest::qWaitFor(
      [&] {
        for (auto* w : window->findChildren<QSlider*>())
          if (w->isVisible() && w->accessibleName() == "Strength") slider = w;
        return slider != nullptr;
      },
      5000));
  const double before = gravity_of(shot().forces);
  const auto drag = [&](int to) {
    slider->setSliderDown(true);  // as a press of the mouse does
    for (int i = 1; i <= 3; ++i) slider->setSliderPosition(slider->value() + (to - slider->value()) * i / 3);
    slider->setSliderDown(false);
  };
  drag(200);
  const double between = gravity_of(shot().forces);
  drag(800);
  ASSERT_NE(gravity_of(shot().forces), between);
  window->document().undo();
  EXPECT_EQ(gravity_of(shot().forces), between) << "the second drag alone";
  window->document().undo();
  EXPECT_EQ(gravity_of(shot().forces), before);
}

TEST_F(Window, GuidesAreDrawnTurned) {
  click("step_1");
  const auto picture_of = [&](double turn) {
    window->document().edit("guide", [&](Shot& s) {
      s.pieces.resize(1);
      Piece p;
      p.id = "guide", p.name = "Guide", p.shape = Block{{0.2, 0.02, 0.02}}, p.holds = p.shows = false;
      p.position = {0, 0.25, 0}, p.turn = {0, 0, turn};
      s.pieces.push_back(p);
    });
    settle();
    return find<Viewport>("viewport")->grab().toImage();
  };
  const auto green_at = [&](const QImage& image, const Vec3d& p) {
    const QPoint at = find<Viewport>("viewport")->to_screen(p).toPoint();
    int best = 0;
    for (int y = -3; y <= 3; ++y)
      for (int x = -3; x <= 3; ++x) {
        const QColor c = image.pixelColor(at + QPoint(x, y));
        best = std::max(best, c.green() - c.red());
      }
    return best;
  };
  const QImage flat = picture_of(0), upright = picture_of(90 * degree);
  const Vec3d end_of_flat{0.1, 0.26, 0.01}, end_of_upright{0.01, 0.35, 0.01};
  EXPECT_GT(green_at(flat, end_of_flat), 15);
  EXPECT_GT(green_at(upright, end_of_upright), 15);
  EXPECT_LT(green_at(upright, end_of_flat), 15);
}

TEST_F(Window, OpeningAnotherShotAsksFirst) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 400; });
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 2; }, 60000));
  answer("Cancel");
  for (auto* a : window->findChildren<QAction*>())
    if (a->text().startsWith("New")) a->trigger();
  EXPECT_EQ(window->runs().state(), Runs::State::running);
  click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
}

TEST_F(Window, PourWindowIsDraggedInTheTimeStrip) {
  auto* strip = find<TimeStrip>("time_strip");
  ASSERT_TRUE(strip);
  const auto drag = [&](double from, double to) {
    const int y = strip->lanes().at(1).top + 14;
    QTest::mousePress(strip, Qt::LeftButton, {}, QPoint(int(strip->x_of(from)), y));
    QMouseEvent move(QEvent::MouseMove, QPointF(strip->x_of(to), y),
                     strip->mapToGlobal(QPointF(strip->x_of(to), y)), Qt::NoButton, Qt::LeftButton, {});
    QApplication::sendEvent(strip, &move);
    QTest::mouseRelease(strip, Qt::LeftButton, {}, QPoint(int(strip->x_of(to)), y));
  };
  drag(8, 10);
  EXPECT_EQ(frames_of(0), (FrameRange{1, 10}));
  drag(1, 4);
  EXPECT_EQ(frames_of(0), (FrameRange{4, 10}));
  drag(7, 5);
  EXPECT_EQ(frames_of(0), (FrameRange{2, 8}));
  window->document().undo();
  EXPECT_EQ(frames_of(0), (FrameRange{4, 10})) << "one drag, one undo";
  strip->setFocus();
  QTest::keyClick(strip, Qt::Key_Right);
  EXPECT_EQ(window->document().frame(), 2);
}

// At the smallest size that a screen may have, and with all buttons that there can be over the stage.
TEST_F(Window, RecentShotsAreOnTheStartPage) {
  const Recent recent(folder.filePath("kept"));
  EXPECT_TRUE(recent.list().empty());
  window->keep_recent(recent);
  ASSERT_TRUE(window->open(file));
  settle();
  window->document().edit("warm", [](Shot& s) { s.pours[0].heat = 44; });
  QTest::keyClick(window.get(), Qt::Key_S, Qt::ControlModifier);
  ASSERT_EQ(recent.list().size(), 1u);
  EXPECT_FALSE(recent.list()[0].picture.isEmpty()) << "as the stage showed it";
  fs::copy_file(file.toStdString(), folder.filePath("other.pour").toStdString());
  recent.add(folder.filePath("other.pour")), recent.add(folder.filePath("gone.pour"));
  ASSERT_EQ(recent.list().size(), 2u) << "what is gone is not shown";
  NewShotDialog dialog(recent);
  dialog.show();
  dialog.findChild<QPushButton*>("job_recent")->click();
  auto* list = dialog.findChild<QListWidget*>("recipes");
  EXPECT_EQ(list->currentItem()->text(), "other") << "the newest is chosen";
  auto* start = dialog.findChild<QPushButton*>("start");
  EXPECT_EQ(start->text(), "Open");
  start->click();
  EXPECT_EQ(dialog.file(), folder.filePath("other.pour"));
}

TEST_F(Window, NothingCoversAnythingOnASmallScreen) {
  window->resize(800, 500);
  settle();
  EXPECT_LE(window->width(), 800);
  EXPECT_LE(window->height(), 500);
  auto* stage = find<Viewport>("viewport");
  for (const char* step : {"step_1", "step_2", "step_6"}) {
    click(step);
    stage->setFocus();
    QTest::keyClick(stage, Qt::Key_Right);
    settle();
    std::vector<std::pair<QString, QRect>> all;
    for (auto* b : stage->findChildren<QPushButton*>())
      if (b->isVisible()) all.emplace_back(b->text(), QRect(b->mapTo(stage, QPoint()), b->size()));
    ASSERT_GE(all.size(), 4u);
    for (size_t i = 0; i < all.size(); ++i) {
      EXPECT_TRUE(stage->rect().contains(all[i].second)) << step << " " << all[i].first.toStdString();
      for (size_t j = 0; j < i; ++j)
        EXPECT_FALSE(all[i].second.intersects(all[j].second))
            << step << " " << all[i].first.toStdString() << " over " << all[j].first.toStdString();
    }
  }
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
  window->document().edit("late", [](Shot& s) { s.pours[0].windows = windows_at(s, {{100, 120}}); });
  settle();
  click("checks");
  click("fix_0");
  arrive();
  EXPECT_EQ(frames_of(0).first, 1);
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

TEST_F(Window, FilesThatHoldWhatCannotBeAreTold) {
  const Shot before = shot();
  const auto refused = [&](const QString& name, const std::string& text, const char* why) {
    if (!text.empty()) write_whole(folder.filePath(name).toStdString(), text);
    EXPECT_FALSE(window->open(folder.filePath(name)));
    EXPECT_THAT(window->notice().toStdString(), HasSubstr(why));
    EXPECT_EQ(shot(), before);
  };
  std::string large = shot_to_json(before);
  large.replace(large.find("\"strength\": 9.81"), 16, "\"strength\": 1e999");
  refused("large.pour", large, "too large");
  refused("deep.pour", std::string(100000, '[') + std::string(100000, ']'), "brackets");
  refused(QString(300, 'n') + ".pour", "", "name is too long");
  refused("circle/a.pour", "", "does not exist");
  // Nor do runs: one that is too strange is named, and the shot is opened.
  fs::create_directories(folder.filePath("word.runs/007").toStdString());
  write_whole(folder.filePath("word.runs/007/run.json").toStdString(), std::string(100000, '['));
  ASSERT_TRUE(window->open(file));
  EXPECT_EQ(window->runs().bad().size(), 1u);
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("Run 7 can't be read"));
  EXPECT_TRUE(find("bad_007"));
}

TEST_F(Window, AStopThatCannotKeepWhatThereIsIsSaid) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 400; });
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 3; }, 60000));
  // A folder stands where the checkpoint is to be written.
  const fs::path checkpoint = window->runs().chosen()->folder / "checkpoint";
  fs::remove_all(checkpoint);
  fs::create_directories(checkpoint / "in the way");
  click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("checkpoint"));
  EXPECT_EQ(window->runs().chosen()->state, RunState::failed);
}

TEST_F(Window, StaysUsableWithoutOpenGl) {
  qputenv("EASY_POUR_NO_OPENGL", "1");
  window = std::make_unique<MainWindow>();
  show();
  ASSERT_TRUE(window->open(file));
  settle();
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  ASSERT_TRUE(QTest::qWaitFor([&] { return !viewport->canvas().has_gl(); }, 5000));
  EXPECT_THAT(find<QLabel>("readout_left")->text().toStdString(), HasSubstr("OpenGL is missing"));
  QTest::qWait(1500);
  const QImage picture = viewport->grab().toImage();
  EXPECT_NE(picture.pixel(picture.width() / 2, picture.height() / 3), picture.pixel(4, picture.height() - 60))
      << "the studio is drawn";
  qunsetenv("EASY_POUR_NO_OPENGL");
}

TEST_F(Window, EverySettingCanBeEditedInItsCard) {
  // Each described setting has a control in the step it belongs to, main or under “more”, or stands in the
  // sentence of its card.
  window->resize(1280, 2400);
  std::set<std::string> shown;
  for (int step = 1; step <= 7; ++step) {
    if (window->document().step() != step) click(QString("step_%1").arg(step));
    show_more();
    for (const auto* w : window->findChildren<QWidget*>()) {
      const QString name = w->objectName();
      if (w->isVisible()) shown.insert((name.startsWith("token_") ? name.mid(6) : name).toStdString());
    }
  }
  for (const Group& g : describe(shot()))
    for (const Setting& s : g.settings) {
      if (!s.applies) continue;
      const std::string path = g.path(s);
      if (path == "film.title" || path == "film.width" || path == "film.height") continue;  // bar, step seven
      EXPECT_TRUE(shown.count(path)) << path;
    }
}

TEST_F(Window, PartsSwitchBetweenHoldingBlockingAndShowing) {
  click("step_1");
  const auto choose = [&](const char* part, const char* label) {
    click(QString("token_pieces.word.") + part);
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    ASSERT_TRUE(menu);
    for (auto* a : menu->actions())
      if (a->text().contains(label)) a->trigger();
    menu->close();
    QTest::qWait(30);
    settle();
    EXPECT_TRUE(window->analyst().now().ok);
  };
  const auto parts = [&] {
    const Piece& p = shot().pieces[0];
    return std::array{p.holds, p.blocks, p.shows};
  };
  choose("holds", "nothing");
  EXPECT_EQ(parts(), (std::array{false, false, true})) << "it only shows";
  choose("blocks", "blocks");
  EXPECT_EQ(parts(), (std::array{false, true, true}));
  choose("shows", "never");
  EXPECT_EQ(parts(), (std::array{false, true, false})) << "it blocks unseen";
  choose("shows", "is in");
  choose("blocks", "lets");
  choose("holds", "holds the");
  EXPECT_EQ(parts(), (std::array{true, false, true}));
}

TEST_F(Window, AFontTheSystemHasIsChosenFromTheList) {
  click("step_1");
  auto* list = find<QComboBox>("pieces.word.font");
  ASSERT_TRUE(list);
  EXPECT_GT(list->count(), 9) << "the shipped ones and the system's";
  const int inter = list->findText("Inter Bold");
  ASSERT_GE(inter, 0);
  list->setFocus();
  list->setCurrentIndex(inter);
  Q_EMIT list->activated(inter);
  QTest::qWait(30);
  EXPECT_EQ(std::get<Lettering>(shot().pieces[0].shape).font.name, "Inter Bold");
  auto* text = find<QLineEdit>("pieces.word.text");
  ASSERT_TRUE(text);
  text->setFocus();
  text->selectAll();
  QInputMethodEvent commit;  // as an input method sends it
  commit.setCommitString(QString::fromUtf8("\u6C34"));
  QApplication::sendEvent(text, &commit);
  QTest::keyClick(text, Qt::Key_Return);
  settle();
  EXPECT_FALSE(window->analyst().now().ok);
  EXPECT_TRUE(find("checks")) << "the font lacks the letter: the badge says so, and offers one that has it";
  EXPECT_FALSE(find("run")->isEnabled() && window->analyst().now().ok);
  click("checks");
  click("fix_0");
  settle();
  EXPECT_TRUE(window->analyst().now().ok) << std::get<Lettering>(shot().pieces[0].shape).font.name;
}

TEST_F(Window, WhatIsNoFontIsToldSoAndTheOldOneComesBack) {
  click("step_1");
  auto* list = find<QComboBox>("pieces.word.font");
  ASSERT_TRUE(list);
  QTest::mouseClick(list->lineEdit(), Qt::LeftButton);
  QTest::qWait(30);
  EXPECT_TRUE(list->lineEdit()->hasSelectedText()) << "a click selects all, so that typing replaces it";
  QTest::keyClicks(list->lineEdit(), "Leage Spartan Blod");
  QTest::keyClick(list->lineEdit(), Qt::Key_Return);
  QTest::qWait(30);
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("League Spartan Bold"));
  EXPECT_EQ(std::get<Lettering>(shot().pieces[0].shape).font.name, "League Spartan Bold");
  EXPECT_EQ(list->currentText(), "League Spartan Bold");
  list->lineEdit()->selectAll();
  QTest::keyClicks(list->lineEdit(), "obster two bold it");
  QTest::keyClick(list->lineEdit(), Qt::Key_Return);
  QTest::qWait(30);
  EXPECT_EQ(std::get<Lettering>(shot().pieces[0].shape).font.name, "Lobster Two Bold Italic")
      << "the only one";
  type("pieces.word.text", "A & B");
  EXPECT_EQ(find<QPushButton>("token_pieces.word.text")->text(), "A && B") << "an ampersand is a letter";
}

TEST_F(Window, SidesAreOpenedAndClosed) {
  click("step_4");
  show_more();
  auto* top = find<QAbstractButton>("run.open_top");
  ASSERT_TRUE(top);
  ASSERT_TRUE(shot().run.open_top);
  top->click();
  EXPECT_FALSE(shot().run.open_top);
  window->document().undo();
  QTest::qWait(30);
  EXPECT_TRUE(find<QAbstractButton>("run.open_top")->isChecked()) << "the control follows undo";
}

TEST_F(Window, ThePlayheadGoesAlongWithARunUntilItIsPutElsewhere) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 60; });
  window->document().set_frame(1);
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->document().frame() >= 4; }, 60000)) << "it goes along";
  window->document().set_frame(2);
  const int done = window->runs().frames_done();
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().frames_done() > done + 2; }, 60000));
  EXPECT_EQ(window->document().frame(), 2) << "and stays where it was put";
  click("stop");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
}

TEST_F(Window, TheViewShowsWhatThePictureWillBe) {
  // Drawn by the graphics card and by the processor: the same light, but for the resolution and the dither.
  run_to_the_end();
  window->document().set_frame(12);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 10000));
  window->document().show_stage(Stage::picture);
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  const Canvas& canvas = viewport->canvas();
  ASSERT_TRUE(QTest::qWaitFor([&] { return canvas.sharp(); }, 20000)) << "sharp at rest";
  ASSERT_TRUE(canvas.has_gl());
  const QImage seen = canvas.image().convertToFormat(QImage::Format_RGB888);
  const Image drawn = quick_picture(*viewport->smoke(), *viewport->pieces(), viewport->look(),
                                    viewport->camera_for(seen.size()), seen.width(), seen.height());
  const auto bytes = display_bytes(drawn);
  // Compared as thumbnails of 32 by 18: edges of a pixel don't count, light does.
  const QImage reference(bytes.data(), drawn.width, drawn.height, drawn.width * 3, QImage::Format_RGB888);
  const QImage a = seen.scaled(32, 18, Qt::IgnoreAspectRatio, Qt::SmoothTransformation),
               b = reference.scaled(32, 18, Qt::IgnoreAspectRatio, Qt::SmoothTransformation);
  double off = 0, most = 0;
  for (int y = 0; y < 18; ++y)
    for (int x = 0; x < 32; ++x) {
      const QColor p = a.pixelColor(x, y), q = b.pixelColor(x, y);
      const double d = std::max(
          {std::abs(p.red() - q.red()), std::abs(p.green() - q.green()), std::abs(p.blue() - q.blue())});
      off += d / (32 * 18), most = std::max(most, d);
    }
  EXPECT_LT(off, 3);
  EXPECT_LT(most, 40) << "of 255";
}

TEST_F(Window, TheViewKeepsUpWhileThingsMove) {
  run_to_the_end();
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  ASSERT_TRUE(QTest::qWaitFor([&] { return viewport->canvas().sharp(); }, 20000));
  const QImage before = viewport->canvas().image();
  QSignalSpy drawn(&viewport->canvas(), &Canvas::drawn);
  const QPoint middle = viewport->rect().center();
  QTest::mousePress(viewport, Qt::LeftButton, {}, middle);
  int moves = 0;
  while (drawn.count() < 3 && moves < 100) {
    QTest::mouseMove(viewport, middle + QPoint(9 * (1 + ++moves % 10), 0));
    QTest::qWait(60);
  }
  EXPECT_GE(drawn.count(), 3) << "pictures come while it is turned";
  QTest::mouseRelease(viewport, Qt::LeftButton, {}, middle + QPoint(90, 0));
  ASSERT_TRUE(QTest::qWaitFor([&] { return viewport->canvas().sharp(); }, 20000)) << "and are sharp at rest";
  EXPECT_EQ(viewport->canvas().image().size(), before.size());
  EXPECT_NE(viewport->canvas().image(), before);
}

TEST_F(Window, TheSetIsFramedWithOnePress) {
  click("step_1");
  type("pieces.word.text", "WIDE AS WIDE");
  settle();
  auto& document = window->document();
  ASSERT_TRUE(out_of_picture(shot(), shot().pieces[0]));
  click("frame_set");
  ASSERT_TRUE(document.own_view());
  EXPECT_TRUE(out_of_picture(shot(), shot().pieces[0])) << "the shot camera stays until it is told";
  click("keep_view");
  EXPECT_FALSE(out_of_picture(shot(), shot().pieces[0]));
  document.undo();
  EXPECT_TRUE(out_of_picture(shot(), shot().pieces[0]));
  // The check says so too, and its fix does the same.
  settle();
  click("checks");
  click("fix_0");
  arrive();
  EXPECT_FALSE(out_of_picture(shot(), shot().pieces[0]));
}

TEST_F(Window, ARunIsWatchedFromTheSetToo) {
  click("step_1");
  ASSERT_EQ(window->document().stage(), Stage::set);
  click("run");
  EXPECT_EQ(window->document().stage(), Stage::fluid);
  EXPECT_EQ(window->document().step(), 1) << "the recipe stays where it is";
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 120000));
  // A stage that was pinned stays.
  window->document().show_stage(Stage::set);
  run_to_the_end();
  EXPECT_EQ(window->document().stage(), Stage::set);
}

TEST_F(Window, AFaultIsSaidOnTheEmptyStage) {
  click("step_1");
  ASSERT_TRUE(window->document().set("pieces.word.text", "水"));
  settle();
  EXPECT_FALSE(window->analyst().now().ok);
  EXPECT_THAT(find<QLabel>("readout_left")->text().toStdString(), HasSubstr("has no “水”"));
}

TEST_F(Window, DeliveringSaysHowFarItIs) {
  window->document().edit("size", [](Shot& s) { s.film.width = 480, s.film.height = 270; });
  run_to_the_end();
  click("step_7");
  auto* box = window->findChild<DeliverBox*>();
  ASSERT_TRUE(box);
  QSignalSpy finished(box, &DeliverBox::finished);
  box->make_images(folder.filePath("pictures"));
  auto* stop = find("deliver_stop");
  ASSERT_TRUE(stop) << "it can be stopped";
  bool told = false;
  while (finished.isEmpty() && QTest::qWaitFor([&] { return !finished.isEmpty(); }, 20) == false)
    for (const auto* l : box->findChildren<QLabel*>())
      told = told || (l->isVisible() && l->text().contains("left"));
  EXPECT_TRUE(told) << "how many are made and how long the rest takes";
  EXPECT_TRUE(finished.front().front().toBool());
  EXPECT_EQ(QDir(folder.filePath("pictures")).entryList({"*.png"}).size(), 12);

  // Made in another way, they are replaced only where that is answered.
  window->document().set("look.exposure", "1");
  const auto answer = [&](QMessageBox::StandardButton button) {
    box->make_images(folder.filePath("pictures"));
    const auto asked = [&] { return window->findChild<QMessageBox*>(); };
    ASSERT_TRUE(QTest::qWaitFor([&] { return asked() != nullptr; }, 30000));
    EXPECT_THAT(asked()->text().toStdString(), HasSubstr("12"));
    asked()->button(button)->click();
    EXPECT_TRUE(QTest::qWaitFor([&] { return asked() == nullptr; }, 5000));
  };
  answer(QMessageBox::No);
  EXPECT_FALSE(box->busy());
  answer(QMessageBox::Yes);
  ASSERT_TRUE(finished.size() == 2 || finished.wait(60000));
  EXPECT_TRUE(finished[1][0].toBool());
  box->make_images(folder.filePath("pictures"));  // nothing to ask: they are current
  ASSERT_TRUE(finished.wait(60000));
  EXPECT_TRUE(finished[2][0].toBool());

  auto* stills = find<QComboBox>("deliver_stills");
  ASSERT_TRUE(stills);
  stills->setCurrentIndex(1);
  Q_EMIT stills->activated(1);
  EXPECT_EQ(shot().film.image_format, Stills::exr);
  box->make_images(folder.filePath("linear"));
  ASSERT_TRUE(finished.wait(60000));
  EXPECT_EQ(QDir(folder.filePath("linear")).entryList({"*.exr"}).size(), 12);
  box->make_sheet(folder.filePath("sheet"));
  ASSERT_TRUE(finished.wait(60000));
  EXPECT_TRUE(QFile::exists(folder.filePath("sheet.png")));
}

TEST_F(Window, DeliveringFollowsTheRunThatIsUnderWay) {
  window->document().edit("size", [](Shot& s) { s.film.width = 64, s.film.height = 36; });
  click("run");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().current_frame() >= 2; }, 60000));
  click("step_7");
  auto* box = window->findChild<DeliverBox*>();
  ASSERT_TRUE(box);
  QSignalSpy finished(box, &DeliverBox::finished);
  auto* follow = box->findChild<QCheckBox*>("deliver_follow");
  ASSERT_TRUE(follow && follow->isVisible());
  follow->setChecked(true);
  box->make_images(folder.filePath("pictures"));
  EXPECT_TRUE(box->busy());
  ASSERT_TRUE(finished.wait(120000));
  EXPECT_TRUE(finished[0][0].toBool()) << finished[0][1].toString().toStdString();
  EXPECT_EQ(QDir(folder.filePath("pictures")).entryList({"*.png"}).size(), 12) << "all of the film";
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 60000));
  EXPECT_FALSE(follow->isVisible()) << "nothing more will come";

  // Stopped, it says so and keeps what is done.
  window->document().edit("larger", [](Shot& s) { s.film.width = 1920, s.film.height = 1080; });
  box->make_images(folder.filePath("large"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return seen("deliver_stop") != nullptr; }, 5000));
  click("deliver_stop");
  ASSERT_TRUE(finished.size() == 2 || finished.wait(60000));
  EXPECT_FALSE(finished[1][0].toBool());
  EXPECT_THAT(finished[1][1].toString().toStdString(), HasSubstr("Stopped"));
}

TEST_F(Window, TheRecipeIsNoWiderThanItsPanel) {
  auto* area = window->findChild<RecipePanel*>()->findChild<QScrollArea*>();
  ASSERT_TRUE(area && area->widget());
  for (const char* name : {"fill-a-word", "a-jug-breathes", "drops-on-cold-glass", "tea-around-a-carton"}) {
    window->document().edit("recipe", [&](Shot& s) { s = find_recipe(name).make(); });
    settle();
    for (int step = 1; step <= 7; ++step) {
      window->document().open_step(step);
      settle();
      for (auto* more : area->findChildren<QPushButton*>())
        if (more->isVisible() && more->text() == "More") more->click();
      settle();
      EXPECT_LE(area->widget()->minimumSizeHint().width(), area->viewport()->width()) << name << step;
    }
  }
}

TEST_F(Window, LightsAreAddedSetUpAndToldWhatToShineOn) {
  click("step_6");
  const auto choose = [&](const QString& button, const QString& words) {
    auto* b = find<QPushButton>(button);
    ASSERT_TRUE(b && b->menu()) << button.toStdString();
    Q_EMIT b->menu()->aboutToShow();
    for (QAction* a : b->menu()->actions())
      if (a->text() == words) {
        a->trigger();
        QTest::qWait(60);
        return;
      }
    ADD_FAILURE() << "no " << words.toStdString();
  };
  const std::vector<Light> before = shot().look.lights;
  ASSERT_EQ(before.size(), 3u);
  choose("add_light", "A spot");
  ASSERT_EQ(shot().look.lights.size(), 4u);
  const std::string path = "lights." + shot().look.lights[3].id;
  show_more();
  const QString on = QString::fromStdString(path + ".shines_on");
  choose(on, "Mint smoke");
  EXPECT_EQ(shot().look.lights[3].shines_on.ids, std::vector<std::string>{shot().fluids[0].id});
  EXPECT_EQ(find<QPushButton>(on)->text(), "Mint smoke");
  choose(on, "Lettering");
  EXPECT_EQ(shot().look.lights[3].shines_on.ids.size(), 2u);
  choose(on, "Mint smoke");
  choose(on, "Lettering");
  EXPECT_TRUE(shot().look.lights[3].shines_on.ids.empty());
  type(QString::fromStdString(path + ".strength"), "40");
  EXPECT_EQ(shot().look.lights[3].strength, 0.4);
  click(QString::fromStdString("remove_" + path));
  EXPECT_EQ(shot().look.lights.size(), 3u);
  choose("add_light", "For products");
  EXPECT_TRUE(shot().look.lights == light_sets()[1].make());
  window->document().undo();
  EXPECT_TRUE(shot().look.lights == before);
}

TEST_F(Window, StartsAnewFromARecipeAndAWord) {
  NewShotDialog dialog;
  dialog.show();
  auto* list = dialog.findChild<QListWidget*>("recipes");
  auto* text = dialog.findChild<QLineEdit*>("word");
  ASSERT_TRUE(list && text);
  EXPECT_EQ(list->count(), int(recipes().size()));
  // Those of a job, those that a search fits, and the first of them is chosen.
  const auto shown = [&] {
    QStringList names;
    for (int i = 0; i < list->count(); ++i)
      if (!list->item(i)->isHidden()) names += list->item(i)->text();
    return names;
  };
  auto* search = dialog.findChild<QLineEdit*>("search");
  dialog.findChild<QPushButton*>("job_1")->click();
  EXPECT_TRUE(shown().contains("Syrup over pancakes"));
  EXPECT_FALSE(shown().contains("Letters fly in"));
  QTest::keyClicks(search, "CREAM");
  EXPECT_EQ(shown(), QStringList{"Cream over biscuits"});
  EXPECT_EQ(list->currentItem()->text(), "Cream over biscuits");
  QTest::keyClicks(search, "zzz");
  EXPECT_FALSE(dialog.findChild<QPushButton*>("start")->isEnabled()) << "nothing is left to start";
  search->clear();
  dialog.findChild<QPushButton*>("job_all")->click();
  EXPECT_EQ(shown().size(), list->count());
  EXPECT_TRUE(dialog.file().isEmpty());
  list->setCurrentRow(1);
  text->selectAll();
  QTest::keyClicks(text, "HALO");
  const Shot made = dialog.shot();
  EXPECT_EQ(std::get<Lettering>(made.pieces[0].shape).text, "HALO");
  EXPECT_TRUE(made.pieces[0].blocks) << "the second recipe";
}

TEST_F(Window, TheStartPageTakesALogoAModelOrAShot) {
  const auto dropped = [](NewShotDialog& on, const QString& file) {
    auto* data = new QMimeData;
    data->setUrls({QUrl::fromLocalFile(file)});
    QDragEnterEvent enter(QPoint(9, 9), Qt::CopyAction, data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&on, &enter);
    if (!enter.isAccepted()) return false;
    QDropEvent drop(QPointF(9, 9), Qt::CopyAction, data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&on, &drop);
    return true;
  };
  const QString share = QString::fromStdString(share_folder().string());
  NewShotDialog dialog;
  dialog.show();
  auto* list = dialog.findChild<QListWidget*>("recipes");
  EXPECT_FALSE(dropped(dialog, share + "/notes.txt"));
  ASSERT_TRUE(dropped(dialog, share + "/marks/oddlark-bird.svg"));
  EXPECT_EQ(list->currentItem()->text(), "A mark melts") << "the first recipe with a mark";
  EXPECT_EQ(dialog.findChild<QPushButton*>("own_product")->text(), "oddlark-bird.svg");
  EXPECT_EQ(place_for(dialog.shot(), dialog.product().toStdString()), "pieces.bird.drawing");
  ASSERT_TRUE(dropped(dialog, share + "/models/oddlark-jar.obj"));
  EXPECT_EQ(list->currentItem()->text(), "A jar out of smoke");
  EXPECT_EQ(dialog.result(), 0) << "nothing is started yet";
  dialog.findChild<QPushButton*>("job_3")->click();
  ASSERT_TRUE(dropped(dialog, share + "/marks/oddlark-bird.svg"));
  EXPECT_TRUE(dialog.findChild<QPushButton*>("job_all")->isChecked()) << "its recipe is of another job";
  ASSERT_TRUE(dropped(dialog, file));
  EXPECT_EQ(dialog.file(), file);
  EXPECT_EQ(dialog.result(), QDialog::Accepted);
}

TEST_F(Window, ASettingIsAnimatedBesideItsField) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 120; });
  click("step_3");
  show_more();
  auto* animate = find<QPushButton>("animate_forces.gravity.strength");
  ASSERT_TRUE(animate);
  animate->click();
  QTest::qWait(30);
  ASSERT_TRUE(shot().force("gravity")->tracks.contains("strength"));
  window->document().set_frame(49);
  type("forces.gravity.strength", "3");
  const Track track = shot().force("gravity")->tracks.at("strength");
  ASSERT_EQ(track.keys.size(), 2u) << "an edit sets a key at the playhead";
  EXPECT_EQ(frame_of(track.keys[1]), 49);
  EXPECT_EQ(std::get<double>(track.keys[1].value), 3);
  window->document().set_frame(1);
  QTest::qWait(30);
  EXPECT_EQ(find<QLineEdit>("forces.gravity.strength")->text(), "9.81 m/s²")
      << "fields say what holds at the playhead";
  window->document().undo();
  EXPECT_EQ(shot().force("gravity")->tracks.at("strength").keys.size(), 1u);
  window->document().redo();
  window->document().set_frame(49);
  QTest::qWait(30);
  find<QPushButton>("animate_forces.gravity.strength")->click();
  EXPECT_FALSE(shot().force("gravity")->tracks.contains("strength"));
  EXPECT_EQ(gravity_of(shot().forces), 3) << "it stays as it was here";
  click("step_4");
  EXPECT_FALSE(window->findChild<QPushButton*>("animate_run.courant")) << "what lays out a run has no track";
}

TEST_F(Window, KeysAreEditedInTheirLane) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 120; });
  window->document().edit("animate", [](Shot& s) {
    assign(s, "gas.density_lift@10=0 linear");
    assign(s, "gas.density_lift@50=-2");
  });
  settle();
  auto* strip = find<TimeStrip>("time_strip");
  const auto lane = [&] { return strip->lanes().back(); };
  ASSERT_EQ(lane().path, "gas.density_lift");
  const auto keys = [&] { return shot().gas.tracks.at("density_lift").keys; };
  const auto drag = [&](QPointF from, QPointF to, Qt::KeyboardModifiers with = {}) {
    QTest::mousePress(strip, Qt::LeftButton, with, from.toPoint());
    QMouseEvent e(QEvent::MouseMove, to, strip->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, with);
    QApplication::sendEvent(strip, &e);
    QTest::mouseRelease(strip, Qt::LeftButton, with, to.toPoint());
  };
  const auto at = [&](double frame) { return QPointF(strip->x_of(frame), lane().top + lane().height / 2.0); };
  drag(at(10), at(20));
  EXPECT_EQ(frame_of(keys()[0]), 20) << "dragged along";
  QTest::mouseDClick(strip, Qt::LeftButton, {}, at(35).toPoint());
  ASSERT_EQ(keys().size(), 3u) << "added where it was clicked twice";
  EXPECT_NEAR(std::get<double>(keys()[1].value), -1, 1e-9) << "with the value that was there";
  drag(QPointF(strip->x_of(12), lane().top + 2), QPointF(strip->x_of(40), lane().top + lane().height - 2));
  EXPECT_EQ(strip->selected().size(), 2u) << "taken in a box";
  QTest::keyClick(strip, Qt::Key_Right, Qt::AltModifier);
  EXPECT_EQ(frame_of(keys()[0]), 21);
  EXPECT_EQ(frame_of(keys()[1]), 36);
  QTest::keyClick(strip, Qt::Key_C, Qt::ControlModifier);
  window->document().set_frame(80);
  QTest::keyClick(strip, Qt::Key_V, Qt::ControlModifier);
  ASSERT_EQ(keys().size(), 5u);
  EXPECT_EQ(frame_of(keys()[3]), 80);
  EXPECT_EQ(frame_of(keys()[4]), 95);
  const auto grip = [&](double frame) { return QPointF(strip->x_of(frame), ruler_height - 4); };
  drag(grip(95), grip(110));
  EXPECT_EQ(frame_of(keys()[3]), 80) << "stretched by the grip at its end";
  EXPECT_EQ(frame_of(keys()[4]), 110);
  drag(grip(80), grip(70));
  EXPECT_EQ(frame_of(keys()[3]), 70) << "and by the one at its beginning";
  EXPECT_EQ(frame_of(keys()[4]), 110);
  QTest::keyClick(strip, Qt::Key_Delete);
  EXPECT_EQ(keys().size(), 3u);
  window->document().undo();
  EXPECT_EQ(keys().size(), 5u);
  // Opened taller, a key is lifted too.
  strip->setFixedHeight(400);
  QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(25, lane().top + 14));
  ASSERT_TRUE(lane().tall);
  const TrackView view(shot(), window->document().clock(), "gas.density_lift");
  const double before = std::get<double>(keys()[0].value);
  const TimeScale scale{strip->x_of(1), strip->x_of(120), 1, 120};
  const QPointF key = view.key_place(lane(), scale, keys()[0], 0);
  drag(key, key + QPointF(0, 20));
  EXPECT_LT(std::get<double>(keys()[0].value), before);
}

TEST_F(Window, APourWindowIsAddedWhereThereIsNone) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 120; });
  auto* strip = find<TimeStrip>("time_strip");
  window->document().edit("w", [](Shot& s) { s.pours[0].windows = windows_at(s, {{10, 20}}); });
  settle();
  QTest::mouseDClick(strip, Qt::LeftButton, {}, QPoint(int(strip->x_of(60)), strip->lanes().at(1).top + 14));
  ASSERT_EQ(shot().pours[0].windows.list.size(), 2u);
  EXPECT_EQ(frames_of(1).first, 60);
}

TEST_F(Window, APieceIsDraggedAtAFrameAndGetsItsKey) {
  window->document().edit("longer", [](Shot& s) { s.film.frames = 120; });
  click("step_1");
  window->document().edit("animate", [](Shot& s) { assign(s, "pieces.word.position@1=0, 10 cm, 0"); });
  window->document().set_frame(30);
  settle();
  auto* stage = find<Viewport>("viewport");
  const QPoint at = stage->to_screen({0, 0.1, 0}).toPoint();
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QMouseEvent e(QEvent::MouseMove, QPointF(at) + QPointF(40, 0), stage->mapToGlobal(QPointF(at)),
                Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(stage, &e);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at);
  const auto keys = shot().pieces[0].tracks.at("position").keys;
  ASSERT_EQ(keys.size(), 2u);
  EXPECT_EQ(frame_of(keys[1]), 30);
  EXPECT_GT(std::get<Vec3d>(keys[1].value).x, 0.005);
  EXPECT_EQ(std::get<Vec3d>(keys[0].value).x, 0);
}

TEST_F(Window, PointsOfACurveAreDraggedInTheStage) {
  click("step_1");
  window->document().edit("tube", [](Shot& s) {
    s.pieces.resize(1);
    Piece p;
    p.id = "way", p.name = "Way", p.shape = Tube{{{{-0.1, 0, 0}, {0.1, 0, 0}}}}, p.holds = p.shows = false;
    p.position = {0, 0.22, 0};
    s.pieces.push_back(p);
  });
  settle();
  auto* stage = find<Viewport>("viewport");
  const QPoint at = stage->to_screen({0.1, 0.22, 0}).toPoint();
  QTest::mousePress(stage, Qt::LeftButton, {}, at);
  QMouseEvent e(QEvent::MouseMove, QPointF(at) + QPointF(0, -30), stage->mapToGlobal(QPointF(at)),
                Qt::NoButton, Qt::LeftButton, {});
  QApplication::sendEvent(stage, &e);
  QTest::mouseRelease(stage, Qt::LeftButton, {}, at);
  const auto points = std::get<Tube>(shot().pieces[1].shape).points.list;
  EXPECT_GT(points[1].y, 0.005);
  EXPECT_EQ(points[0], (Vec3d{-0.1, 0, 0}));
}

TEST_F(Window, TwoRunsAreComparedSideBySide) {
  run_to_the_end();
  window->document().edit("colour", [](Shot& s) { s.fluids[0].color() = {0.9, 0.1, 0.1}; });
  run_to_the_end();
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  window->document().set_frame(12);
  find("compare_001")->setFocus();
  QTest::keyClick(find("compare_001"), Qt::Key_Space);
  QTest::qWait(30);
  EXPECT_TRUE(viewport->comparing());
  ASSERT_TRUE(QApplication::focusWidget());
  EXPECT_EQ(QApplication::focusWidget()->objectName(), "compare_001") << "the keyboard stays where it was";
  EXPECT_FALSE(seen("compare_002")) << "a run is not compared with itself";
  const Canvas& canvas = viewport->canvas();
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return window->frames().ready() && canvas.sharp() && !canvas.image_before().isNull(); }, 20000));
  QTest::qWait(300);

  // Mint on the left of the line, red on the right, each as its run was poured.
  const auto redness = [&](double from, double to) {
    const QImage all = viewport->grab().toImage();
    double sum = 0;
    for (int y = all.height() / 4; y < all.height() * 3 / 4; ++y)
      for (int x = int(from * all.width()); x < int(to * all.width()); ++x)
        if (const QRgb c = all.pixel(x, y);
            std::abs(qRed(c) - qGreen(c)) > 30)  // smoke, not the greenish room
          sum += qRed(c) - qGreen(c);
    return sum;
  };
  EXPECT_LT(redness(0.05, 0.48), -1000);
  EXPECT_GT(redness(0.52, 0.95), 1000);

  // The line is dragged by mouse and moved by keys.
  const auto at = [&](double part) { return QPoint(int(part * viewport->width()), viewport->height() / 3); };
  QTest::mousePress(viewport, Qt::LeftButton, {}, at(0.5));
  QTest::mouseMove(viewport, at(0.8));
  QTest::mouseRelease(viewport, Qt::LeftButton, {}, at(0.8));
  EXPECT_NEAR(viewport->split(), 0.8, 0.01);
  EXPECT_LT(redness(0.55, 0.75), 0) << "there is the older run now";
  EXPECT_FALSE(window->document().own_view()) << "the camera was not turned";
  QTest::keyClick(viewport, Qt::Key_Left, Qt::ControlModifier);
  EXPECT_NEAR(viewport->split(), 0.75, 0.01);

  // Choosing the older one swaps the sides; then one run is shown alone again.
  window->runs().choose("001");
  ASSERT_TRUE(window->runs().compared());
  EXPECT_EQ(window->runs().compared()->name(), "002");
  click("end_compare");
  EXPECT_FALSE(viewport->comparing());
  EXPECT_TRUE(gone("end_compare"));
}

TEST_F(Window, SeedsAreSeenUntilTheSmokeIs) {
  settle();
  auto* viewport = find<Viewport>("viewport");
  const auto& seeds = window->analyst().now().seeds;
  ASSERT_FALSE(seeds.empty());
  // Pixels that the overlay adds around where a seed is projected to.
  const auto drawn_over = [&] {
    EXPECT_TRUE(QTest::qWaitFor([&] { return viewport->canvas().sharp(); }, 20000));
    QTest::qWait(200);
    const QImage all = viewport->grab().toImage(), under = viewport->canvas().image().scaled(all.size());
    const View view(viewport->camera_for(viewport->size()), double(viewport->width()) / viewport->height());
    int ringed = 0;
    for (const Staging::Seed& s : seeds) {
      const Vec3f p = view.project(to<float>(s.center)),
                  e = view.project(to<float>(s.center + to<double>(view.right) * s.radius));
      const QPoint at(int((p.x * 0.5 + 0.5) * float(all.width())),
                      int((0.5 - p.y * 0.5) * float(all.height())));
      const int r = int((e.x - p.x) * 0.5f * float(all.width()));
      int off = 0;
      for (int dy = -r - 1; dy <= r + 1; ++dy)
        for (int dx = -r - 1; dx <= r + 1; ++dx) {
          const QPoint q = at + QPoint(dx, dy);
          if (all.rect().contains(q) &&
              std::abs(all.pixelColor(q).green() - under.pixelColor(q).green()) > 30)
            ++off;
        }
      ringed += off > 2 * r;
    }
    return ringed;
  };
  EXPECT_EQ(drawn_over(), int(seeds.size()));
  run_to_the_end();
  window->document().set_frame(12);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 10000));
  EXPECT_EQ(drawn_over(), 0) << "now the smoke itself is seen";
  click("step_1");
  EXPECT_EQ(drawn_over(), int(seeds.size())) << "the set still says where it starts";
}

TEST_F(Window, SpeedIsShownInColoursWithItsLegend) {
  EXPECT_FALSE(seen("shows")) << "there is nothing to show yet";
  run_to_the_end();
  window->document().set_frame(12);
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->frames().ready(); }, 10000));
  auto* shows = find<QPushButton>("shows");
  ASSERT_TRUE(shows && shows->menu());
  auto* viewport = find<Viewport>("viewport");
  const auto look_at = [&](const char* action) {
    auto* a = shows->menu()->findChild<QAction*>(action);
    EXPECT_TRUE(a);
    if (a) a->trigger();
    EXPECT_TRUE(QTest::qWaitFor(
        [&] {
          return viewport->canvas().sharp() && window->frames().ready() &&
                 window->frames().current().quantity == window->document().quantity();
        },
        20000));
    QTest::qWait(500);
    return viewport->grab().toImage();
  };
  const QImage smoke = look_at("show_smoke"), speed = look_at("show_speed");
  EXPECT_NE(smoke, speed);
  EXPECT_EQ(shows->text(), "Speed");
  EXPECT_GT(window->frames().current().most, 0.01) << "m/s, what the lightest colour stands for";
  EXPECT_LT(window->frames().current().most, 1.05 * window->runs().chosen()->frames.back().smoke().max_speed);
  EXPECT_NE(look_at("show_warmth"), speed);

  // How liquid is drawn does not matter to smoke, and there is nothing to choose.
  Q_EMIT shows->menu()->aboutToShow();
  EXPECT_FALSE(shows->menu()->findChild<QAction*>("as_small_points")->isVisible());

  // The picture is always that of the smoke itself.
  click("stage_2");
  EXPECT_EQ(window->document().quantity(), Quantity::none);
  EXPECT_FALSE(seen("shows"));
  click("stage_1");
  EXPECT_EQ(window->document().quantity(), Quantity::warmth) << "it was not forgotten";
}

TEST_F(Window, LiquidIsSeenAsPoints) {
  window->document().edit("tea", [](Shot& s) {
    s = find_recipe("tea-into-a-bowl").make();
    s.run.detail = Detail::custom, s.run.cell_size = 0.008, s.film.frames = 4;
  });
  run_to_the_end();
  window->document().set_frame(4);
  auto* menu = find<QPushButton>("shows")->menu();
  const auto triangles = [&](const char* action) {
    Q_EMIT menu->aboutToShow();
    auto* a = menu->findChild<QAction*>(action);
    EXPECT_TRUE(a->isVisible());
    a->trigger();
    const double size = window->document().shown().point_size;
    EXPECT_TRUE(QTest::qWaitFor(
        [&] { return window->frames().ready() && window->frames().current().point_size == size; }, 20000));
    return window->frames().current().pieces->back().surface->mesh.triangles.size();
  };
  const double particles = window->runs().chosen()->frames.back().flow("liquid").particles;
  EXPECT_EQ(double(triangles("as_large_points")), 4 * particles);
  EXPECT_EQ(double(triangles("as_small_points")), 4 * particles);
  EXPECT_NE(double(triangles("as_skin")), 4 * particles);

  // By how thick it is, from nothing to its thickest, and by which liquid it is.
  for (const char* by : {"show_thickness", "show_liquid"}) {
    Q_EMIT menu->aboutToShow();
    auto* a = menu->findChild<QAction*>(by);
    ASSERT_TRUE(a && a->isVisible()) << by;
    a->trigger();
    EXPECT_TRUE(QTest::qWaitFor(
        [&] {
          return window->frames().ready() &&
                 window->frames().current().quantity == window->document().quantity();
        },
        20000));
    const Color named = color_of_number(0);
    for (const Vec3f& c : window->frames().current().pieces->back().surface->colors)
      if (std::string(by) == "show_liquid") {
        ASSERT_NEAR(c.x, named.r, 1e-4);
      }
    if (std::string(by) == "show_thickness") {
      EXPECT_GT(window->frames().current().most, 0.004);
      EXPECT_LT(window->frames().current().most, 0.05) << "m";
    }
  }
}

TEST_F(Window, TheSettingsOfAnOlderRunComeBack) {
  run_to_the_end();
  EXPECT_FALSE(seen("use_001")) << "it has the settings of the shot";
  window->document().edit("heat", [](Shot& s) { s.pours[0].heat = 77, s.look.exposure = 1.25; });
  run_to_the_end();
  click("use_001");
  EXPECT_NE(shot().pours[0].heat, 77);
  EXPECT_EQ(shot().look.exposure, 1.25) << "the look stays";
  EXPECT_EQ(window->document().undo_name(), "Use the settings of run 1");
  window->document().undo();
  EXPECT_EQ(shot().pours[0].heat, 77);
}

TEST_F(Window, ARunGoesToTheTrash) {
  const QByteArray home = qgetenv("HOME");
  qputenv("HOME", folder.path().toUtf8());
  run_to_the_end();
  run_to_the_end();
  ASSERT_EQ(window->runs().all().size(), 2u);
  click("compare_001");
  click("delete_001");
  ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().all().size() == 1; }, 5000));
  EXPECT_FALSE(QFileInfo::exists(folder.filePath("word.runs/001")));
  EXPECT_TRUE(QFileInfo::exists(folder.filePath(".local/share/Trash/files/001/run.json")));
  EXPECT_FALSE(window->runs().compared());
  EXPECT_EQ(window->runs().chosen()->name(), "002");
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("Run 1 was moved to the trash"));

  click("put_back");
  EXPECT_EQ(window->runs().all().size(), 2u);
  EXPECT_TRUE(QFileInfo::exists(folder.filePath("word.runs/001/frames/000012.vdb")));
  EXPECT_EQ(window->notice().toStdString(), "");

  // Where there is no place for a trash, nothing is moved anywhere.
  qputenv("XDG_DATA_HOME", "/proc/nowhere");
  click("delete_001");
  EXPECT_EQ(window->runs().all().size(), 2u);
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("Delete its folder “001” by hand"));
  EXPECT_FALSE(seen("put_back"));
  qunsetenv("XDG_DATA_HOME");
  qputenv("HOME", home);
}

TEST_F(Window, ANewShotRunsWithoutANameAndFindsAPlaceOfItsOwn) {
  const QByteArray home = qgetenv("HOME");
  qputenv("HOME", folder.path().toUtf8());
  for (const char* name : {"halo.pour", "halo_2.pour"}) {
    Shot s = shot();
    s.film.title = "Halo", s.film.frames = 2;
    window->document().start(s);
    settle();
    run_to_the_end();
    const QString file = QDir(Document::own_folder()).filePath(name);
    EXPECT_EQ(window->document().file(), file);
    EXPECT_TRUE(QFileInfo::exists(file)) << file.toStdString();
    EXPECT_FALSE(window->document().modified());
    EXPECT_THAT(window->notice().toStdString(), HasSubstr("~/")) << "it is told where";
  }
  qputenv("HOME", home);
}

TEST_F(Window, TheWholeWayByKeyboard) {
  // Tab reaches the run button and the recipe from wherever one is, and every stop is visible.
  window->setFocus();
  std::set<QString> reached;
  for (int i = 0; i < 120; ++i) {
    QTest::keyClick(QApplication::focusWidget() ? QApplication::focusWidget() : window.get(), Qt::Key_Tab);
    if (auto* w = QApplication::focusWidget()) {
      EXPECT_TRUE(w->isVisible());
      reached.insert(w->objectName());
    }
  }
  for (const char* name :
       {"run", "step_1", "step_7", "pours.mint.warmth", "time_strip", "viewport", "tab_runs"})
    EXPECT_TRUE(reached.count(name)) << name;

  // Buttons are pressed by the space bar and by Enter; elsewhere the space bar plays.
  auto* drawer = find<QPushButton>("drawer_button");
  ASSERT_TRUE(drawer);
  for (const Qt::Key key : {Qt::Key_Space, Qt::Key_Return}) {
    const bool on = drawer->isChecked();
    drawer->setFocus();
    QTest::keyClick(drawer, key);
    EXPECT_NE(drawer->isChecked(), on);
    EXPECT_FALSE(window->document().playing());
  }
  find("viewport")->setFocus();
  QTest::keyClick(find("viewport"), Qt::Key_Space);
  EXPECT_TRUE(window->document().playing());
}

TEST_F(Window, UndoWalksBackThroughEverythingAndForwardAgain) {
  const Shot before = shot();
  click("step_1");
  type("pieces.word.text", "AB");
  type("pieces.word.depth", "6 cm");
  click("step_2");
  type("pours.mint.warmth", "55");
  click("step_3");
  type("forces.gravity.strength", "0");
  window->document().edit("sides", [](Shot& s) { s.run.open_left = false; });
  const Shot after = shot();
  while (window->document().can_undo()) window->document().undo();
  EXPECT_EQ(shot(), before);
  while (window->document().can_redo()) window->document().redo();
  EXPECT_EQ(shot(), after);
  EXPECT_EQ(gravity_of(shot().forces), 0) << "weightless";
}

TEST_F(Window, SavingTellsWhetherSomethingChanged) {
  EXPECT_FALSE(window->document().modified());
  type("pours.mint.warmth", "44");
  EXPECT_TRUE(window->document().modified());
  QTest::keySequence(window.get(), QKeySequence::Save);
  QTest::qWait(30);
  EXPECT_FALSE(window->document().modified());
  EXPECT_EQ(load_shot(file.toStdString()).pours[0].heat, 44);
  window->document().undo();
  EXPECT_TRUE(window->document().modified()) << "another value than the one on disk";
  window->document().redo();
  EXPECT_FALSE(window->document().modified());
}

TEST_F(Window, ATornFrameIsNamedAndTheOthersAreShown) {
  run_to_the_end();
  const fs::path frame = window->runs().chosen()->frame_file(6);
  fs::resize_file(frame, fs::file_size(frame) / 2);
  window = std::make_unique<MainWindow>();  // another day: nothing is remembered
  show();
  ASSERT_TRUE(window->open(file));
  settle();
  window->document().set_frame(6);
  QTest::qWait(1500);
  EXPECT_THAT(window->notice().toStdString() + find<QLabel>("readout_right")->text().toStdString() +
                  find<QLabel>("readout_left")->text().toStdString(),
              HasSubstr("000006.vdb"));
  window->document().set_frame(9);
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return window->frames().ready() && window->frames().current_frame() == 9; }, 10000));
  EXPECT_FALSE(window->frames().current().smoke->empty());
}

TEST_F(Window, ClosesWithAFieldInMidEdit) {
  auto* title = find<QLineEdit>("title");
  ASSERT_TRUE(title);
  title->setFocus();
  QTest::keyClicks(title, "x");
  window.reset();  // the field loses the focus on the way out; the sanitizers see whom it talks to
  EXPECT_EQ(load_shot(file.toStdString()).film.title, recipes().front().make().film.title)
      << "nothing was saved unasked";
}

TEST_F(Window, FocusFollowsAClickAndLinesHelpToCompose) {
  window->document().edit("ball", [](Shot& s) {
    s.pieces[0].shape = Ball{0.05}, s.pieces[0].position = {0, 0.1, 0}, s.pieces[0].turn = {};
    s.camera.target = {0, 0.1, 0}, s.camera.distance = 0.5, s.camera.elevation = 0;
  });
  settle();
  auto* viewport = find<Viewport>("viewport");
  auto* focus = window->findChild<QPushButton*>("focus");
  EXPECT_FALSE(focus->isVisible()) << "on the stage of pictures alone";
  window->document().show_stage(Stage::picture);
  ASSERT_TRUE(focus->isVisible());
  focus->click();
  EXPECT_THAT(find<QLabel>("readout_left")->text().toStdString(), HasSubstr("Click"));
  QTest::mouseClick(viewport, Qt::LeftButton, {}, viewport->to_screen({0, 0.1, 0}).toPoint());
  EXPECT_NEAR(shot().camera.focus, 0.45, 0.001);
  EXPECT_EQ(shot().camera.f_number, 2.8) << "a lens that blurs nothing is opened";
  EXPECT_FALSE(focus->isChecked());
  window->document().undo();
  EXPECT_EQ(shot().camera.focus, 0);
  EXPECT_EQ(shot().camera.f_number, 0);
  focus->click();
  QTest::mouseClick(viewport, Qt::LeftButton, {}, QPoint(viewport->width() / 2, viewport->height() - 30));
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("Nothing is there to be sharp"));
  EXPECT_EQ(shot().camera.focus, 0);

  const QImage plain = viewport->grab().toImage();
  auto* lines = find<QPushButton>("lines")->menu();
  for (const char* name : {"guide_thirds", "guide_safe", "guide_tall"}) {
    lines->findChild<QAction*>(name)->trigger();
    QTest::qWait(60);
    EXPECT_NE(viewport->grab().toImage(), plain) << name;
    lines->findChild<QAction*>(name)->trigger();
  }
}

TEST_F(Window, ChoicesOfMaterialsAndLiquidsShowThem) {
  window->document().edit("tea", [](Shot& s) { s = find_recipe("tea-into-a-bowl").make(); });
  click("step_1");
  auto* list = find<QComboBox>("pieces.bowl.material");
  ASSERT_TRUE(list);
  for (int i = 0; i < list->count(); ++i)
    EXPECT_FALSE(list->itemIcon(i).isNull()) << list->itemText(i).toStdString();
  click("step_2");
  click("token_fluids.tea.liquid");
  auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
  ASSERT_TRUE(menu);
  for (const QAction* a : menu->actions()) EXPECT_FALSE(a->icon().isNull()) << a->text().toStdString();
  menu->close();
  click("more_fluids.tea");
  auto* looks_like = find<QComboBox>("fluids.tea.material");
  ASSERT_TRUE(looks_like);
  EXPECT_EQ(looks_like->currentText(), "what it is");
  for (int i = 0; i < looks_like->count(); ++i)
    EXPECT_FALSE(looks_like->itemIcon(i).isNull()) << looks_like->itemText(i).toStdString();
  ASSERT_TRUE(find<QWidget>("fluids.tea.clarity"));
  Q_EMIT looks_like->activated(looks_like->findText("new: chrome"));
  settle();
  EXPECT_EQ(shot().fluids[0].as<Liquid>()->material.id, "chrome");
  EXPECT_FALSE(find<QWidget>("fluids.tea.clarity")) << "its material says that";
}

TEST_F(Window, APieceIsMadeOfAMaterialThatIsEditedInLook) {
  window->document().edit("tea", [](Shot& s) { s = find_recipe("tea-into-a-bowl").make(); });
  click("step_1");
  const size_t materials = shot().materials.size();
  auto* list = find<QComboBox>("pieces.bowl.material");
  ASSERT_TRUE(list);
  EXPECT_EQ(list->currentText(), "Stoneware");
  const int chrome = list->findText("new: chrome");
  ASSERT_GE(chrome, 0);
  Q_EMIT list->activated(chrome);
  settle();
  ASSERT_EQ(shot().materials.size(), materials + 1);
  EXPECT_EQ(shot().piece("bowl")->material.id, "chrome");
  click("edit_pieces.bowl.material");
  settle();
  EXPECT_EQ(window->document().step(), 6);
  auto* card = find<Card>("card_materials.chrome");
  ASSERT_TRUE(card);
  auto* kind = find<QPushButton>("token_materials.chrome.kind");
  ASSERT_TRUE(kind);
  EXPECT_EQ(kind->text(), "chrome");
  type("materials.chrome.roughness", "30 %");
  EXPECT_DOUBLE_EQ(shot().material("chrome")->roughness, 0.3);
  click("remove_materials.chrome");
  EXPECT_TRUE(shot().piece("bowl")->material.id.empty()) << "it is as the look says";
  window->document().undo();
  EXPECT_EQ(shot().piece("bowl")->material.id, "chrome");
  auto* add = find<QPushButton>("add_material");
  ASSERT_TRUE(add && add->menu());
  add->menu()->actions().front()->trigger();
  EXPECT_EQ(shot().materials.size(), materials + 2);
}

TEST_F(Window, DraggingThePictureLooksAroundAndTheWheelComesNearer) {
  auto* viewport = find<Viewport>("viewport");
  ASSERT_TRUE(viewport);
  const Camera before = window->document().camera();
  const auto drag = [&](const QPoint& from, const QPoint& to) {
    QTest::mousePress(viewport, Qt::LeftButton, {}, from);
    QMouseEvent move(QEvent::MouseMove, QPointF(to), viewport->mapToGlobal(QPointF(to)), Qt::NoButton,
                     Qt::LeftButton, {});
    QApplication::sendEvent(viewport, &move);
    QTest::mouseRelease(viewport, Qt::LeftButton, {}, to);
  };
  drag({80, 120}, {160, 140});
  EXPECT_NE(window->document().camera().azimuth, before.azimuth);
  QWheelEvent wheel(QPointF(100, 100), viewport->mapToGlobal(QPointF(100, 100)), {}, {0, 120}, Qt::NoButton,
                    {}, Qt::NoScrollPhase, false);
  QApplication::sendEvent(viewport, &wheel);
  EXPECT_LT(window->document().camera().distance, before.distance);
  EXPECT_EQ(shot().camera, before);
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

TEST_F(Window, FilesComeInAndAreUndone) {
  QFile drawing(folder.filePath("Star.svg"));
  ASSERT_TRUE(drawing.open(QIODevice::WriteOnly));
  drawing.write("<svg viewBox='0 0 10 10'><path d='M5 0 8 10 0 3H10L2 10Z'/></svg>");
  drawing.close();
  // Dropped on the window.
  QMimeData data;
  data.setUrls({QUrl::fromLocalFile(drawing.fileName())});
  QDragEnterEvent enter({100, 100}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(window.get(), &enter);
  EXPECT_TRUE(enter.isAccepted());
  QDropEvent drop({100, 100}, Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(window.get(), &drop);
  arrive();
  settle();
  ASSERT_EQ(window->document().shot().pieces.size(), 2u);
  EXPECT_EQ(window->document().shot().pieces[1].name, "Star");
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("Star.svg: 1 part"));
  EXPECT_TRUE(find("card_pieces.star"));
  EXPECT_TRUE(window->analyst().now().ok);
  // Copied as text, which is no file.
  window->arrivals().bring_in("<svg viewBox='0 0 10 10'><rect width='10' height='5'/></svg>");
  arrive();
  EXPECT_EQ(window->document().shot().pieces.size(), 3u);
  window->document().undo();
  window->document().undo();
  EXPECT_EQ(window->document().shot().pieces.size(), 1u);
  // What can't be read is said, and nothing is lost.
  window->arrivals().bring_in(folder.filePath("absent.svg"));
  arrive();
  EXPECT_EQ(window->document().shot().pieces.size(), 1u);
  EXPECT_THAT(window->notice().toStdString(), HasSubstr("does not exist"));
}
