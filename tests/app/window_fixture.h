// The real window on a small word, driven as a person would.
#pragma once
#include <gtest/gtest.h>

#include <memory>
#include <QApplication>
#include <QLineEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTest>

#include "main_window.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

class Window : public testing::Test {
 protected:
  QTemporaryDir folder;
  std::unique_ptr<MainWindow> window;
  QString file;

  void SetUp() override {
    pour::Shot s = pour::recipes().front().make();
    std::get<pour::Lettering>(s.pieces[0].shape).text = "OI";
    s.film.frames = 12;
    s.pours[0].windows = windows_at(s, {{1, 8}});
    s.run.detail = pour::Detail::custom, s.run.cell_size = 0.005;
    file = folder.filePath("word.pour");
    pour::save_shot(s, file.toStdString());
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
  /// The frame of the film that a key is on, and those of a window of the first pour.
  double frame_of(const pour::Key& k) {
    const double frame = pour::Clock(shot()).film_frame(k.time);
    return std::abs(frame - std::round(frame)) < 1e-6 ? std::round(frame) : frame;
  }
  pour::FrameRange frames_of(size_t window_of_pour) {
    const pour::Clock clock(shot());
    const pour::Span& span = shot().pours[0].windows.list[window_of_pour];
    EXPECT_TRUE(on_frames(clock, {{span}}));
    return {int(std::lround(clock.film_frame(span.from))), int(std::lround(last_frame_of(clock, span)))};
  }
  void settle() {
    QTest::qWait(20);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !window->arrivals().busy(); }, 30000));
    QTest::qWait(20);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !window->analyst().busy(); }, 30000));
    QTest::qWait(20);
  }
  /// Waits for what is being brought in.
  void arrive() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return !window->arrivals().busy(); }, 30000));
    QTest::qWait(50);
  }
  template <class T = QWidget>
  T* seen(const QString& name) {
    for (T* w : window->findChildren<T*>(name))
      if (w->isVisible() && !w->size().isEmpty()) return w;  // and laid out: a hand could press it
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
  /// Opens what the cards of the open step hide under “More”.
  void show_more() {
    QTest::qWait(100);
    for (auto* more : window->findChildren<QPushButton*>())
      if (more->isVisible() && more->objectName().startsWith("more_") && more->isCheckable() &&
          !more->isChecked())
        more->click();
    QTest::qWait(30);
  }
  const pour::Shot& shot() { return window->document().shot(); }
  void run_to_the_end() {
    click("run");
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() != Runs::State::idle; }, 5000))
        << window->notice().toStdString();
    ASSERT_TRUE(QTest::qWaitFor([&] { return window->runs().state() == Runs::State::idle; }, 120000));
  }
};
