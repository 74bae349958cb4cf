// easy-pour: the window.
#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>
#include <QSurfaceFormat>
#include <QTimer>

#include "base/version.h"
#include "main_window.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "theme.h"

namespace {

/// No exception ends the program: it is told, and what is open stays.
class Application : public QApplication {
 public:
  using QApplication::QApplication;
  MainWindow* window = nullptr;
  bool notify(QObject* receiver, QEvent* event) override {
    try {
      return QApplication::notify(receiver, event);
    } catch (...) {
      const pour::Fault f = pour::fault_in_flight("Easy Pour");
      if (window) window->say(QString::fromUtf8(f.what()));
      return false;
    }
  }
};

}  // namespace

int main(int argc, char** argv) {
  QSurfaceFormat format;
  format.setVersion(3, 3);
  format.setProfile(QSurfaceFormat::CoreProfile);
  QSurfaceFormat::setDefaultFormat(format);
  Application app(argc, argv);
  QApplication::setApplicationName("Easy Pour");
  QApplication::setApplicationVersion(EASY_POUR_VERSION);
  QCommandLineParser parser;
  parser.setApplicationDescription(
      QApplication::translate("main", "Branded fluid shots, from a word to finished frames."));
  parser.addHelpOption();
  parser.addVersionOption();
  const QCommandLineOption demo(
      "demo", QApplication::translate(
                  "main", "Open the Oddlark lettering, made in your documents when it is not there yet."));
  const QCommandLineOption dark(
      "dark", QApplication::translate("main", "The dark window, whatever the system says."));
  const QCommandLineOption light("light", QApplication::translate("main", "The light window."));
  parser.addOptions({demo, dark, light});
  parser.addPositionalArgument("shot", QApplication::translate("main", "A shot to open, NAME.pour."),
                               "[shot]");
  parser.process(app);
  apply_theme(app, parser.isSet(dark) || (!parser.isSet(light) && system_is_dark()));

  MainWindow window;
  app.window = &window;
  window.keep_recent(Recent(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation)));
  window.show();
  QTimer::singleShot(0, &window, [&] {
    const QStringList files = parser.positionalArguments();
    if (!files.isEmpty()) {
      window.open(files.front());
      return;
    }
    const pour::Shot first = pour::recipes().front().make();
    if (!parser.isSet(demo)) {
      window.document().start(first);
      window.start_new();
      return;
    }
    const QDir folder(Document::own_folder());
    const QString file = folder.filePath("oddlark.pour");
    if (!QFileInfo::exists(file) && QDir().mkpath(folder.path())) {
      try {
        pour::save_shot(first, file.toStdString());
      } catch (const std::exception&) {  // a folder that can't be written: the shot opens unsaved
        window.document().start(first);
        return;
      }
    }
    window.open(file);
  });
  const int code = app.exec();
  app.window = nullptr;
  return code;
}
