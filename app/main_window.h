// The window: bar, recipe, stage, drawer and time strip around one document.
#pragma once
#include <QMainWindow>

#include "arrivals.h"
#include "document.h"
#include "runs.h"
#include "skins.h"
#include "start/recent.h"
#include "view/analyst.h"
#include "view/frames.h"

class DeliverBox;
class Drawer;
class QAction;
class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class RecipePanel;
class TimeStrip;
class Viewport;

class MainWindow : public QMainWindow {
  Q_OBJECT

 public:
  explicit MainWindow(QWidget* parent = nullptr);
  ~MainWindow() override;
  Document& document() { return document_; }
  Runs& runs() { return runs_; }
  Frames& frames() { return frames_; }
  Analyst& analyst() { return analyst_; }
  Skins& skins() { return skins_; }
  /// Opens a shot, or shows why not. Returns success.
  bool open(const QString& file);
  /// The last message in the notice bar.
  QString notice() const;
  /// Shows a message in the notice bar.
  void say(const QString& text);
  Arrivals& arrivals() { return arrivals_; }
  /// Records shots opened and saved from now on as recent.
  void keep_recent(const Recent& recent) { recent_ = recent; }
  /// The start page: recent shots, recipes, files.
  void start_new();

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void closeEvent(QCloseEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  bool eventFilter(QObject*, QEvent*) override;

 private:
  void build_bar(class QHBoxLayout* bar);
  void refresh();
  void press_run();
  /// Saves and switches the view before a run; false if saving failed.
  bool ready_to_run();
  bool save(bool ask_name);
  bool save_to(const QString& file);
  QString file_name() const;  // from the title
  bool may_discard();
  /// Asks what to do with a run in progress; false to cancel.
  bool may_leave_run();
  /// Records the shot as recent, with the stage's picture.
  void remember();
  QString default_folder() const;

  Document document_;
  Runs runs_;
  Frames frames_, frames_before_;
  Analyst analyst_;
  Skins skins_;
  Arrivals arrivals_;
  Recent recent_;
  DeliverBox* deliver_ = nullptr;
  Drawer* drawer_ = nullptr;
  Viewport* viewport_ = nullptr;
  TimeStrip* time_ = nullptr;
  QLineEdit* title_ = nullptr;
  QLabel* facts_ = nullptr;
  QPushButton *run_ = nullptr, *pause_ = nullptr, *stop_ = nullptr, *resume_ = nullptr, *checks_ = nullptr,
              *drawer_button_ = nullptr;
  QAction *undo_ = nullptr, *redo_ = nullptr;
  QWidget* notice_ = nullptr;
  QLabel* notice_text_ = nullptr;
  QPushButton* take_back_ = nullptr;  // undoes what the notice reports
  bool narrow_ = false;
  bool closing_ = false;  // closes once the run is stored
};
