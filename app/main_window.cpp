#include "main_window.h"

#include <QAbstractButton>
#include <QAction>
#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QDir>
#include <QDropEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QMimeData>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>
#include <QSlider>
#include <QStandardPaths>
#include <QVBoxLayout>

#include "background.h"
#include "base/error.h"
#include "base/file.h"
#include "base/units.h"
#include "drawer/drawer.h"
#include "file_kinds.h"
#include "recipe/deliver_box.h"
#include "recipe/recipe_panel.h"
#include "shot/arrival.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "start/new_shot_dialog.h"
#include "theme.h"
#include "time/time_strip.h"
#include "view/viewport.h"

using namespace pour;

namespace {

/// The mark: a drop, leaning as if it were poured, with a bright eye.
QPixmap mark(int size, const QColor& color) {
  QPixmap pixmap(size * 2, size * 2);
  pixmap.fill(Qt::transparent);
  QPainter p(&pixmap);
  p.setRenderHint(QPainter::Antialiasing);
  p.scale(size / 12.0, size / 12.0);
  p.setPen(Qt::NoPen);
  p.setBrush(color);
  QPainterPath drop;
  drop.moveTo(12, 23);
  drop.cubicTo(8, 18, 3, 15, 3, 9.5);
  drop.arcTo(QRectF(3, 1, 18, 17), 180, -180);
  drop.cubicTo(21, 15, 16, 18, 12, 23);
  p.drawPath(drop);
  p.setBrush(QColor(251, 250, 247));
  p.drawEllipse(QPointF(12.5, 9.5), 3, 3);
  pixmap.setDevicePixelRatio(2);
  return pixmap;
}

constexpr int recipe_width = 368, room_for_drawer = 960;  // pixels

}  // namespace

MainWindow::MainWindow(QWidget* parent)
    : QMainWindow(parent),
      runs_(document_),
      frames_(document_, runs_, [this] { return runs_.chosen(); }),
      frames_before_(document_, runs_, [this] { return runs_.compared(); }),
      analyst_(document_, runs_),
      skins_(document_, runs_),
      arrivals_(document_, this) {
  resize(1280, 800);
  setWindowIcon(mark(64, theme().accent));
  setAcceptDrops(true);
  auto* central = new QWidget(this);
  central->setStyleSheet(QString("QWidget#central { background: %1; }").arg(theme().side.name()));
  central->setObjectName("central");
  setCentralWidget(central);
  auto* column = new QVBoxLayout(central);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* bar_widget = new QWidget(central);
  bar_widget->setObjectName("bar");
  bar_widget->setAttribute(Qt::WA_StyledBackground);
  bar_widget->setStyleSheet(QString("QWidget#bar { background: %1; border-bottom: 1px solid %2; }")
                                .arg(theme().panel.name(), theme().line.name()));
  bar_widget->setFixedHeight(44);
  auto* bar = new QHBoxLayout(bar_widget);
  build_bar(bar);
  column->addWidget(bar_widget);

  notice_ = new QWidget(central);
  notice_->setObjectName("notice");
  notice_->setAttribute(Qt::WA_StyledBackground);
  notice_->setStyleSheet(QString("QWidget#notice { background: %1; border-bottom: 1px solid %2; }")
                             .arg(theme().warning_soft.name(), theme().line.name()));
  auto* notice_row = new QHBoxLayout(notice_);
  notice_row->setContentsMargins(16, 6, 12, 6);
  notice_text_ = new QLabel(notice_);
  notice_text_->setWordWrap(true);
  notice_text_->setObjectName("notice_text");
  notice_text_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
  auto* close = new QPushButton(tr("Close"), notice_);
  close->setProperty("role", "link");
  connect(close, &QPushButton::clicked, notice_, &QWidget::hide);
  take_back_ = new QPushButton(tr("Put it back"), notice_);
  take_back_->setProperty("role", "link");
  take_back_->setObjectName("put_back");
  connect(take_back_, &QPushButton::clicked, this, [this] {
    notice_->hide();
    if (!runs_.put_back()) say(tr("The run could not be put back. It is in the trash."));
  });
  notice_row->addWidget(notice_text_, 1);
  notice_row->addWidget(take_back_);
  notice_row->addWidget(close);
  notice_->hide();
  column->addWidget(notice_);

  auto* middle = new QHBoxLayout;
  middle->setSpacing(0);
  deliver_ = new DeliverBox(document_, runs_);
  auto* recipe = new RecipePanel(document_, runs_, analyst_, skins_, deliver_, central);
  connect(recipe, &RecipePanel::file_wanted, &arrivals_, &Arrivals::bring_in);
  connect(&arrivals_, &Arrivals::refused, this, &MainWindow::say);
  connect(&arrivals_, &Arrivals::arrived, this, [this](const QString& piece) {
    document_.open_step(1);
    document_.select(piece.toStdString());
  });
  connect(&arrivals_, &Arrivals::described, this, &MainWindow::say);
  connect(&analyst_, &Analyst::changed, &arrivals_, &Arrivals::describe_all);
  recipe->setFixedWidth(recipe_width);
  setMinimumSize(800, 500);
  middle->addWidget(recipe);
  viewport_ = new Viewport(document_, runs_, frames_, frames_before_, analyst_, central);
  middle->addWidget(viewport_, 1);
  drawer_ = new Drawer(document_, runs_, analyst_, central);
  middle->addWidget(drawer_);
  connect(drawer_, &Drawer::going_on, this, [this](int run, int frame) {
    if (ready_to_run()) runs_.start_from(run, frame);
  });
  connect(drawer_, &Drawer::removed, this, [this](const QString& run, bool done) {
    const int number = run.toInt();
    say(done ? tr("Run %1 was moved to the trash.").arg(number)
             : tr("Run %1 could not be moved to the trash. Delete its folder “%2” by hand.")
                   .arg(number)
                   .arg(run));
    take_back_->setVisible(done);
  });
  viewport_->setFocus();  // not the title: nobody begins by renaming
  qApp->installEventFilter(this);
  column->addLayout(middle, 1);
  time_ = new TimeStrip(document_, runs_, frames_, skins_, central);
  column->addWidget(time_);

  connect(drawer_button_, &QPushButton::toggled, drawer_, &QWidget::setVisible);
  connect(checks_, &QPushButton::clicked, this, [this] {
    drawer_button_->setChecked(true);
    drawer_->show_checks();
  });
  connect(&document_, &Document::changed, this, &MainWindow::refresh);
  connect(&document_, &Document::file_changed, this, &MainWindow::refresh);
  connect(&document_, &Document::problem, this, &MainWindow::say);
  connect(&document_, &Document::noticed, this, &MainWindow::say);
  connect(&runs_, &Runs::changed, this, &MainWindow::refresh);
  connect(&runs_, &Runs::progress, this, [this](int) { refresh(); });
  connect(&runs_, &Runs::failed, this, &MainWindow::say);
  connect(&runs_, &Runs::noticed, this, &MainWindow::say);
  connect(&runs_, &Runs::changed, this, [this] {
    if (closing_ && runs_.state() == Runs::State::idle) QWidget::close();
  });
  connect(&skins_, &Skins::changed, this, [this] { frames_.set_kept(skins_.kept()); });
  for (Frames* f : {&frames_, &frames_before_}) connect(f, &Frames::problem, this, &MainWindow::say);
  connect(&analyst_, &Analyst::changed, this, &MainWindow::refresh);
  refresh();
}

MainWindow::~MainWindow() {
  if (!deliver_->parent()) delete deliver_;
  // Before the document and the runs, which a field that loses the focus still talks to.
  delete takeCentralWidget();
}

void MainWindow::build_bar(QHBoxLayout* bar) {
  bar->setContentsMargins(14, 0, 14, 0);
  bar->setSpacing(8);
  auto* logo = new QLabel;
  logo->setPixmap(mark(24, theme().accent));
  logo->setAccessibleName("Easy Pour");
  bar->addWidget(logo);
  title_ = new QLineEdit;
  title_->setObjectName("title");
  title_->setAccessibleName(tr("Title of the shot"));
  QFont bold = title_->font();
  bold.setWeight(QFont::DemiBold);
  title_->setFont(bold);
  connect(title_, &QLineEdit::editingFinished, this, [this] {
    if (title_->isModified()) document_.set("film.title", title_->text());
    title_->setModified(false);
  });
  bar->addWidget(title_);
  facts_ = new QLabel;
  facts_->setProperty("role", "quiet");
  bar->addWidget(facts_);
  bar->addStretch(1);

  const auto action = [&](QMenu* menu, const QString& text, const QKeySequence& key, auto slot) {
    QAction* a = menu->addAction(text);
    a->setShortcut(key);
    connect(a, &QAction::triggered, this, slot);
    addAction(a);
    return a;
  };
  auto* shot_button = new QPushButton(tr("Shot"));
  shot_button->setObjectName("shot_menu");
  auto* shot_menu = new QMenu(shot_button);
  action(shot_menu, tr("New …"), QKeySequence::New, [this] { start_new(); });
  action(shot_menu, tr("Open …"), QKeySequence::Open, [this] {
    if (!may_discard() || !may_leave_run()) return;
    const QString file = QFileDialog::getOpenFileName(this, tr("Open a shot"), default_folder(),
                                                      tr("Easy Pour shots (*.pour)"));
    if (!file.isEmpty()) open(file);
  });
  action(shot_menu, tr("Save"), QKeySequence::Save, [this] { save(false); });
  action(shot_menu, tr("Save as …"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), [this] { save(true); });
  shot_menu->addSeparator();
  undo_ = action(shot_menu, tr("Undo"), QKeySequence::Undo, [this] { document_.undo(); });
  redo_ = action(shot_menu, tr("Redo"), QKeySequence::Redo, [this] { document_.redo(); });
  shot_menu->addSeparator();
  action(shot_menu, tr("Quit"), QKeySequence::Quit, [this] { close(); });
  shot_button->setMenu(shot_menu);
  bar->addWidget(shot_button);

  const auto button = [&](const QString& text, const char* name, const QString& tip) {
    auto* b = new QPushButton(text);
    b->setObjectName(name);
    b->setToolTip(tip);
    bar->addWidget(b);
    return b;
  };
  checks_ = button({}, "checks", tr("What will go wrong, and how to mend it"));
  checks_->setProperty("role", "badge");
  drawer_button_ = button(tr("Drawer"), "drawer_button", tr("Shows or hides the runs and checks"));
  drawer_button_->setCheckable(true);
  drawer_button_->setChecked(true);
  pause_ = button(tr("Pause"), "pause", tr("Holds the run; the frames so far can be watched"));
  stop_ = button(tr("Stop"), "stop", tr("Ends the run; it can be resumed later"));
  resume_ = button(tr("Resume"), "resume", tr("Goes on with the chosen run where it was stopped"));
  run_ = button(tr("Run"), "run", tr("Computes the shot as it is now (Ctrl+R)"));
  run_->setProperty("role", "main");
  run_->setShortcut(QKeySequence(Qt::CTRL | Qt::Key_R));
  connect(run_, &QPushButton::clicked, this, &MainWindow::press_run);
  connect(pause_, &QPushButton::clicked, &runs_, &Runs::toggle_pause);
  connect(stop_, &QPushButton::clicked, &runs_, &Runs::stop);
  connect(resume_, &QPushButton::clicked, &runs_, &Runs::resume);
}

void MainWindow::refresh() {
  const Shot& s = document_.shot();
  if (!title_->hasFocus() || !title_->isModified())
    title_->setText(QString::fromStdString(s.film.title)), title_->setModified(false);
  title_->setFixedWidth(std::clamp(title_->fontMetrics().horizontalAdvance(title_->text()) + 18, 60, 300));
  facts_->setText(tr("%1 s · %2 fps · %3 × %4%5")
                      .arg(double(s.film.frames) / s.film.frame_rate, 0, 'g', 4)
                      .arg(QString::fromStdString(format_quantity(s.film.frame_rate, Unit::none, 5)))
                      .arg(s.film.width)
                      .arg(s.film.height)
                      .arg(document_.file().isEmpty() ? tr(" · not saved yet")
                           : document_.modified()     ? tr(" · changed")
                                                      : QString()));
  setWindowTitle(QString::fromStdString(s.film.title) + (document_.modified() ? " *" : "") +
                 tr(" · Easy Pour"));
  undo_->setEnabled(document_.can_undo());
  undo_->setText(document_.can_undo() ? tr("Undo: %1").arg(document_.undo_name()) : tr("Undo"));
  redo_->setEnabled(document_.can_redo());
  redo_->setText(document_.can_redo() ? tr("Redo: %1").arg(document_.redo_name()) : tr("Redo"));
  const size_t checks = analyst_.now().checks.size();
  checks_->setVisible(checks > 0);
  checks_->setText(checks == 1 ? tr("1 check") : tr("%1 checks").arg(checks));
  const Runs::State state = runs_.state();
  const bool idle = state == Runs::State::idle;
  static constexpr const char* details[] = {QT_TR_NOOP("Run draft"), QT_TR_NOOP("Run medium"),
                                            QT_TR_NOOP("Run final"), QT_TR_NOOP("Run")};
  QString text = tr(details[int(s.run.detail)]);
  if (analyst_.now().ok)
    text += tr("  ≈ %1").arg(QString::fromStdString(format_duration(analyst_.now().estimate.seconds)));
  if (!idle) {
    const double left = runs_.seconds_left();
    text = runs_.stopping()             ? tr("Stopping …")
           : runs_.current_frame() == 0 ? tr("Starting …")
           : left > 0                   ? tr("Frame %1 · %2 left")
                            .arg(runs_.current_frame())
                            .arg(QString::fromStdString(format_duration(left)))
                      : tr("Frame %1").arg(runs_.current_frame());
  }
  run_->setText(text);
  run_->setEnabled(idle && (analyst_.now().ok || analyst_.busy()));
  pause_->setVisible(!idle && !runs_.stopping()), stop_->setVisible(runs_.can_stop());
  pause_->setText(state == Runs::State::paused ? tr("Go on") : tr("Pause"));
  resume_->setVisible(runs_.can_resume());
}

void MainWindow::say(const QString& text) {
  notice_text_->setText(text);
  take_back_->hide();
  notice_->show();
}

QString MainWindow::notice() const { return notice_->isVisible() ? notice_text_->text() : QString(); }

QString MainWindow::default_folder() const {
  if (!document_.file().isEmpty()) return QFileInfo(document_.file()).absolutePath();
  const QString own = Document::own_folder();
  return QFileInfo::exists(own) ? own : QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation);
}

bool MainWindow::open(const QString& file) {
  notice_->hide();  // what was said of another shot
  try {
    // By its one true name, so that its runs are found from everywhere.
    document_.open(QString::fromStdString(true_path(file.toStdString()).string()));
    recent_.add(document_.file());
    return true;
  } catch (...) {
    say(QString::fromUtf8(fault_in_flight(file.toStdString()).what()));
    return false;
  }
}

QString MainWindow::file_name() const {
  return QString::fromStdString(new_id(document_.shot(), document_.shot().film.title));
}

bool MainWindow::save(bool ask_name) {
  QString file = document_.file();
  if (ask_name || file.isEmpty()) {
    file = QFileDialog::getSaveFileName(this, tr("Save the shot"),
                                        default_folder() + "/" + file_name() + ".pour",
                                        tr("Easy Pour shots (*.pour)"));
    if (file.isEmpty()) return false;
    if (!file.endsWith(".pour")) file += ".pour";
  }
  return save_to(file);
}

bool MainWindow::save_to(const QString& file) {
  try {
    const QString name = QString::fromStdString(true_path(file.toStdString()).string());
    if (name != document_.file()) runs_.let_go();  // it goes on beside the file that it was started from
    document_.save(name);
    remember();
    runs_.reload();
    return true;
  } catch (...) {
    say(QString::fromUtf8(fault_in_flight(file.toStdString()).what()));
    return false;
  }
}

bool MainWindow::may_discard() {
  if (!document_.modified()) return true;
  QMessageBox box(
      QMessageBox::NoIcon, tr("Easy Pour"),
      tr("“%1” was changed. Save it first?").arg(QString::fromStdString(document_.shot().film.title)),
      QMessageBox::Save | QMessageBox::Discard | QMessageBox::Cancel, this);
  const int answer = box.exec();
  if (answer == QMessageBox::Save) return save(false);
  return answer == QMessageBox::Discard;
}

bool MainWindow::may_leave_run() {
  if (runs_.state() == Runs::State::idle) return true;
  QMessageBox box(
      QMessageBox::NoIcon, tr("Easy Pour"),
      tr("A run is being computed. Stopped, it can be resumed later; left alone, it goes on to its end."),
      QMessageBox::Cancel, this);
  auto* stop = box.addButton(tr("Stop it"), QMessageBox::AcceptRole);
  auto* leave = box.addButton(tr("Let it go on"), QMessageBox::AcceptRole);
  box.setDefaultButton(stop);
  box.exec();
  if (box.clickedButton() == stop) runs_.stop();
  if (box.clickedButton() == leave) runs_.let_go();
  return box.clickedButton() == stop || box.clickedButton() == leave;
}

void MainWindow::start_new() {
  if (!may_discard() || !may_leave_run()) return;
  remember();
  NewShotDialog dialog(recent_, this);
  if (dialog.exec() != QDialog::Accepted) return;
  if (!dialog.file().isEmpty()) {
    open(dialog.file());
    return;
  }
  document_.start(dialog.shot());
  if (dialog.product().isEmpty()) return;
  const std::string path = place_for(document_.shot(), dialog.product().toStdString());
  if (path.empty())
    arrivals_.bring_in(dialog.product());  // the recipe chosen since has no place for it
  else
    document_.set_beside(QString::fromStdString(path), dialog.product());
}

void MainWindow::remember() {
  if (!document_.file().isEmpty()) recent_.add(document_.file(), viewport_->picture());
}

bool MainWindow::ready_to_run() {
  // The run is made from the file, so that a farm or a later day can start the same. A shot that has none yet
  // gets one: nobody should have to think of a name to see smoke.
  if (document_.file().isEmpty()) {
    const QDir folder(Document::own_folder());
    QString name = file_name();
    for (int n = 2; folder.exists(name + ".pour"); ++n) name = file_name() + QString("_%1").arg(n);
    if (!folder.mkpath(".") || !save_to(folder.filePath(name + ".pour"))) {
      if (!save(false)) return false;
    } else {
      QString place = document_.file();
      if (place.startsWith(QDir::homePath() + "/")) place.replace(0, QDir::homePath().size(), "~");
      say(tr("Saved as “%1”. “Save as …” puts it elsewhere.").arg(place));
    }
  } else {
    notice_->hide();
    if (document_.modified() && !save(false)) return false;
  }
  document_.watch_run();
  viewport_->setFocus();  // the button has nothing more to offer for now
  return true;
}

void MainWindow::press_run() {
  if (ready_to_run()) runs_.start();
}

/// A narrow window has no room for the drawer, until somebody asks for it.
void MainWindow::resizeEvent(QResizeEvent* e) {
  QMainWindow::resizeEvent(e);
  const bool narrow = width() < room_for_drawer;
  if (narrow == narrow_) return;
  narrow_ = narrow;
  drawer_button_->setChecked(!narrow);
}

bool MainWindow::eventFilter(QObject* object, QEvent* e) {
  // The wheel scrolls what a slider or a list is in: nobody changes a setting by scrolling past it.
  if (e->type() == QEvent::Wheel && (qobject_cast<QSlider*>(object) || qobject_cast<QComboBox*>(object))) {
    e->ignore();
    return true;
  }
  return QMainWindow::eventFilter(object, e);
}

void MainWindow::keyPressEvent(QKeyEvent* e) {
  // What the widget with the focus has no use for: a button takes the space bar for itself.
  auto* button = qobject_cast<QAbstractButton*>(QApplication::focusWidget());
  if (e->key() == Qt::Key_Space)
    time_->play(!time_->playing());
  else if (button && (e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter))
    button->click();
  else
    QMainWindow::keyPressEvent(e);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* e) {
  for (const QUrl& url : e->mimeData()->urls())
    if (can_come_in(url.toLocalFile())) e->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* e) {
  for (const QUrl& url : e->mimeData()->urls())
    if (can_come_in(url.toLocalFile())) arrivals_.bring_in(url.toLocalFile());
}

void MainWindow::closeEvent(QCloseEvent* e) {
  if (!closing_ && (!may_discard() || !may_leave_run())) {
    e->ignore();
    return;
  }
  if (runs_.state() != Runs::State::idle) {  // what it has is stored first
    closing_ = true;
    say(tr("The run is being stored; then the window closes."));
    e->ignore();
    return;
  }
  remember();
  e->accept();
}
