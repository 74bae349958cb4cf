// How soon the window answers while a shot runs: opens a copy of the shot, presses Run, plays and turns the
// view, and prints how long the events of that time took, how soon an edit is on the stage, and at last how
// long a sharp picture takes. With a model it prints how soon that is seen when it comes in. Needs a screen;
// Xvfb does. Usage: window_bench SHOT.pour [SECONDS | MODEL]
#include <algorithm>
#include <cstdio>
#include <map>
#include <QApplication>
#include <QElapsedTimer>
#include <QFile>
#include <QPushButton>
#include <QSurfaceFormat>
#include <QTemporaryDir>
#include <QTest>

#include "main_window.h"
#include "theme.h"
#include "view/viewport.h"

using namespace pour;

namespace {

struct Took {
  double ms = 0;
  QByteArray what;
};

/// Times every event from outside, not those sent while another one is handled.
class Timed : public QApplication {
 public:
  using QApplication::QApplication;
  std::vector<Took> events;
  bool notify(QObject* to, QEvent* event) override {
    if (depth_) return QApplication::notify(to, event);
    ++depth_;
    const QByteArray name = QByteArray(to->metaObject()->className()) + " " + to->objectName().toUtf8() +
                            " event " + QByteArray::number(int(event->type()));
    QElapsedTimer timer;
    timer.start();
    const bool handled = QApplication::notify(to, event);
    --depth_;
    events.push_back({double(timer.nsecsElapsed()) * 1e-6, name});
    return handled;
  }

 private:
  int depth_ = 0;
};

}  // namespace

int main(int argc, char** argv) {
  if (argc < 2) {
    std::fprintf(stderr, "Usage: window_bench SHOT.pour [SECONDS | MODEL]\n");
    return 2;
  }
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  QSurfaceFormat::setDefaultFormat(format);
  Timed app(argc, argv);
  apply_theme(app, false);
  QTemporaryDir folder;
  const QString shot = folder.filePath("shot.pour");
  if (!QFile::copy(QString::fromLocal8Bit(argv[1]), shot)) return 1;
  QElapsedTimer opening;
  opening.start();
  MainWindow window;
  window.resize(1280, 800);
  window.show();
  if (!QTest::qWaitForWindowExposed(&window) || !window.open(shot)) return 1;
  QTest::qWait(0);
  std::printf("opened after %.2f s\n", double(opening.elapsed()) / 1000);
  auto* run = window.findChild<QPushButton*>("run");
  auto* view = window.findChild<Viewport*>();
  if (!run || !view || !QTest::qWaitFor([&] { return run->isEnabled(); }, 30000)) return 1;

  const auto report = [&](const char* title) {
    std::vector<Took>& e = app.events;
    std::sort(e.begin(), e.end(), [](const Took& a, const Took& b) { return a.ms > b.ms; });
    const auto over = std::count_if(e.begin(), e.end(), [](const Took& t) { return t.ms > 50; });
    std::printf("%s: %zu events, %td above 50 ms\n", title, e.size(), over);
    for (size_t i = 0; i < std::min<size_t>(8, e.size()); ++i)
      std::printf("  %7.1f ms  %s\n", e[i].ms, e[i].what.constData());
    e.clear();
  };
  report("before the run");
  if (argc > 2 && QFile::exists(QString::fromLocal8Bit(argv[2]))) {
    const Analyst& analyst = window.analyst();
    if (!QTest::qWaitFor([&] { return !analyst.busy(); }, 60000)) return 1;
    app.events.clear();
    QElapsedTimer coming;
    coming.start();
    const auto seconds = [&] { return double(coming.elapsed()) / 1000; };
    const size_t before = analyst.now().pieces->size();
    window.arrivals().bring_in(QString::fromLocal8Bit(argv[2]));
    if (!QTest::qWaitFor([&] { return analyst.now().pieces->size() > before; }, 60000)) return 1;
    view->grab();
    std::printf("the model is seen after %.2f s\n", seconds());
    if (!QTest::qWaitFor([&] { return !window.arrivals().busy() && !analyst.busy(); }, 60000)) return 1;
    std::printf("all is known of it after %.2f s\n", seconds());
    report("while it came in");
    return 0;
  }
  double slowest = 0;
  for (int i = 0; i < 20 && !window.document().shot().pieces.empty(); ++i) {
    const Piece& piece = window.document().shot().pieces[size_t(i) % window.document().shot().pieces.size()];
    QElapsedTimer edit;
    edit.start();
    window.document().set(QString::fromStdString("pieces." + piece.id + ".position"),
                          QString("%1 cm, 10 cm, 0 cm").arg(i));
    view->grab();  // what is due is drawn
    slowest = std::max(slowest, double(edit.nsecsElapsed()) * 1e-6);
    QTest::qWait(300);
  }
  std::printf("an edit is on the stage after %.1f ms at most\n", slowest);
  report("editing");
  QTest::mouseClick(run, Qt::LeftButton);
  const int ms = (argc > 2 ? std::atoi(argv[2]) : 10) * 1000;
  QTest::qWait(ms);
  report("watching the run");
  QTest::keyClick(&window, Qt::Key_Space);
  QTest::qWait(ms);
  report("playing");
  QTest::keyClick(&window, Qt::Key_Space);
  const QPoint middle = view->rect().center();
  QTest::mousePress(view, Qt::LeftButton, {}, middle);
  for (int i = 1; i <= ms / 30; ++i) {
    QTest::mouseMove(view, middle + QPoint(i % 200, i % 40));
    QTest::qWait(30);
  }
  QTest::mouseRelease(view, Qt::LeftButton, {}, middle);
  QTest::qWait(500);
  report("turning the view");
  window.runs().stop();
  (void)QTest::qWaitFor([&] { return window.runs().state() == Runs::State::idle; }, 20000);
  QTest::qWait(2000);
  QElapsedTimer sharpening;
  sharpening.start();
  Camera camera = window.document().camera();
  camera.azimuth += 0.1;
  window.document().look_from(camera);
  if (!QTest::qWaitFor([&] { return view->canvas().sharp(); }, 20000)) return 1;
  std::printf("a view is sharp after %lld ms\n", static_cast<long long>(sharpening.elapsed()));
  return 0;
}
