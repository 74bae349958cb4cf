// Screenshots of the window, each from a recipe: called by tools/screenshots.
#include <QApplication>
#include <QCursor>
#include <QDir>
#include <QListWidget>
#include <QPushButton>
#include <QScreen>
#include <QTemporaryDir>
#include <QTest>

#include <cstdio>

#include "main_window.h"
#include "shot/assign.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "start/new_shot_dialog.h"
#include "theme.h"
#include "view/canvas.h"

using namespace pour;

namespace {

constexpr int longest = 20 * 60 * 1000;  // ms, of a run

class View {
 public:
  explicit View(const char* recipe, const std::vector<std::string>& settings = {}) {
    Shot shot = find_recipe(recipe).make();
    for (const std::string& s : settings) assign(shot, s);
    const QString file = folder_.filePath(QString(recipe) + ".pour");
    save_shot(shot, file.toStdString());
    window.resize(1280, 800);
    window.show();
    (void)QTest::qWaitForWindowExposed(&window);
    QApplication::setActiveWindow(&window);
    window.open(file);
    settle();
  }
  MainWindow window;
  void settle() {
    QTest::qWait(200);
    (void)QTest::qWaitFor([&] { return !window.arrivals().busy() && !window.analyst().busy(); }, 120000);
    QTest::qWait(1500);
  }
  void click(const char* name) {
    for (auto* b : window.findChildren<QPushButton*>(name))
      if (b->isVisible()) {
        b->click();
        QTest::qWait(200);
        return;
      }
    std::fprintf(stderr, "no button %s\n", name);
  }
  /// Runs the shot up to a frame, or to its end.
  void run(int until = 0) {
    click("run");
    (void)QTest::qWaitFor([&] { return window.runs().state() != Runs::State::idle; }, 20000);
    (void)QTest::qWaitFor(
        [&] {
          return window.runs().state() == Runs::State::idle ||
                 (until && window.runs().current_frame() >= until);
        },
        longest);
    settle();
  }
  void show(int frame, Stage stage) {
    window.document().set_frame(frame);
    window.document().show_stage(stage);
    settle();
  }

 private:
  QTemporaryDir folder_;
};

void grab(const QString& file) {
  QTest::qWait(300);
  if (!QGuiApplication::primaryScreen()->grabWindow(0).save(file))
    std::fprintf(stderr, "%s could not be written\n", file.toUtf8().constData());
}

// Each is named after its picture.

void set(const QString& file) {
  View v("cream-on-a-jar");
  v.window.document().open_step(1);
  v.window.document().select("jar");
  v.settle();
  grab(file);
}

/// With the way that smoke would fly from under the pointer.
void forces(const QString& file) {
  View v("ribbon-round-a-bottle");
  v.window.document().open_step(3);
  v.settle();
  auto* stage = v.window.findChild<QWidget*>("viewport");
  const QPoint at(stage->width() * 3 / 5, stage->height() * 3 / 4);
  QCursor::setPos(stage->mapToGlobal(at));
  QTest::mouseMove(stage, at);
  v.settle();
  grab(file);
}

void fluid(const QString& file) {
  View v("fill-a-word", {"run.detail=medium"});
  v.window.document().open_step(2);
  v.run(70);
  v.show(60, Stage::fluid);
  grab(file);
  v.window.runs().stop();
  (void)QTest::qWaitFor([&] { return v.window.runs().state() == Runs::State::idle; }, 60000);
}

void speed(const QString& file) {
  View v("fill-a-word");
  v.window.document().open_step(2);
  v.run();
  v.show(60, Stage::fluid);
  v.window.document().show_quantity(Quantity::speed);
  v.settle();
  grab(file);
}

void compare(const QString& file) {
  View v("fill-a-word");
  v.window.document().open_step(2);
  v.run();
  v.window.document().edit("seeds", [](Shot& s) { assign(s, "pours." + s.pours[0].id + ".seed_place=top"); });
  v.run();
  v.show(60, Stage::fluid);
  v.window.runs().compare("001");
  v.settle();
  grab(file);
}

void picture(const QString& file) {
  View v("tea-around-a-carton");
  v.run();
  v.window.document().open_step(6);
  v.show(56, Stage::picture);
  v.window.document().set_traced(true);
  v.settle();
  auto* canvas = v.window.findChild<Canvas*>();
  (void)QTest::qWaitFor([&] { return canvas && canvas->traced() >= 64; }, longest);
  grab(file);
}

void dark(const QString& file) {
  apply_theme(*qApp, true);
  View v("fill-a-word");
  NewShotDialog dialog(Recent(), &v.window);
  dialog.show();
  dialog.move((1280 - dialog.width()) / 2, std::max(0, (800 - dialog.height()) / 2));
  QTest::qWait(1000);
  grab(file);
  apply_theme(*qApp, false);
}

}  // namespace

int main(int argc, char** argv) {
  QApplication app(argc, argv);
  QApplication::setApplicationName("Easy Pour");
  apply_theme(app, false);
  const std::pair<QString, void (*)(const QString&)> all[] = {
      {"set", set},         {"forces", forces},   {"fluid", fluid}, {"speed", speed},
      {"compare", compare}, {"picture", picture}, {"dark", dark}};
  const QStringList wanted = app.arguments().mid(2);
  for (const auto& [name, make] : all)
    if (wanted.isEmpty() || wanted.contains(name)) make(QDir(argv[1]).filePath(name + ".png"));
}
