#include "drawer/drawer.h"

#include <QApplication>
#include <QHBoxLayout>
#include <QLabel>
#include <QMouseEvent>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QtConcurrent>
#include <QVBoxLayout>

#include "background.h"
#include "base/error.h"
#include "base/units.h"
#include "deliver/deliver.h"
#include "recipe/flow_layout.h"
#include "runs.h"
#include "shot/compare.h"
#include "theme.h"
#include "view/analyst.h"

using namespace pour;

namespace {

constexpr int picture_width = 224, picture_height = 126;

/// A card that can be chosen by mouse and keyboard.
class RunCard : public QFrame {
 public:
  RunCard(QWidget* parent, std::function<void()> chosen) : QFrame(parent), chosen_(std::move(chosen)) {
    setProperty("role", "card");
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
  }

 protected:
  void mousePressEvent(QMouseEvent*) override {
    QMetaObject::invokeMethod(
        this, [f = chosen_] { f(); }, Qt::QueuedConnection);
  }
  void keyPressEvent(QKeyEvent* e) override {
    if (e->key() == Qt::Key_Return || e->key() == Qt::Key_Space)
      QMetaObject::invokeMethod(
          this, [f = chosen_] { f(); }, Qt::QueuedConnection);
    else
      QFrame::keyPressEvent(e);
  }

 private:
  std::function<void()> chosen_;
};

QLabel* label(QWidget* parent, const QString& text, const char* role) {
  auto* l = new QLabel(text, parent);
  l->setWordWrap(true);
  if (role) l->setProperty("role", role);
  return l;
}

void clear(QVBoxLayout* column) {
  while (QLayoutItem* item = column->takeAt(0)) {
    if (item->widget()) item->widget()->hide(), item->widget()->deleteLater();
    delete item;
  }
}

}  // namespace

Drawer::Drawer(Document& document, Runs& runs, Analyst& analyst, QWidget* parent)
    : QWidget(parent), document_(document), runs_(runs), analyst_(analyst) {
  setFixedWidth(252);
  setAccessibleName(tr("Drawer"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 4, 0, 0);
  column->setSpacing(0);
  auto* tabs = new QHBoxLayout;
  tabs->setContentsMargins(14, 0, 14, 0);
  tabs->setSpacing(16);
  pages_ = new QStackedWidget(this);
  const auto page = [&](const QString& name, const char* id, QPushButton*& tab, QVBoxLayout*& into) {
    tab = new QPushButton(name, this);
    tab->setProperty("role", "tab");
    tab->setCheckable(true);
    tab->setObjectName(id);
    tabs->addWidget(tab);
    auto* scroll = new QScrollArea(pages_);
    scroll->setWidgetResizable(true);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    auto* content = new QWidget;
    auto* outer = new QVBoxLayout(content);
    outer->setContentsMargins(12, 12, 12, 12);
    into = new QVBoxLayout;
    into->setSpacing(10);
    outer->addLayout(into);
    outer->addStretch(1);
    scroll->setWidget(content);
    const int index = pages_->addWidget(scroll);
    connect(tab, &QPushButton::clicked, this, [this, index] {
      pages_->setCurrentIndex(index);
      runs_tab_->setChecked(index == 0), checks_tab_->setChecked(index == 1);
    });
  };
  page(tr("Runs"), "tab_runs", runs_tab_, runs_column_);
  page(tr("Checks"), "tab_checks", checks_tab_, checks_column_);
  runs_tab_->setChecked(true);
  tabs->addStretch(1);
  column->addLayout(tabs);
  auto* line = new QFrame(this);
  line->setFixedHeight(1);
  line->setStyleSheet(QString("background: %1;").arg(theme().line.name()));
  column->addWidget(line);
  column->addWidget(pages_, 1);
  connect(&runs_, &Runs::changed, this, &Drawer::fill_runs);
  connect(&runs_, &Runs::progress, this, [this](int frame) {
    // Until a run has its picture, its card has something to wait for.
    const Run* run = runs_.chosen();
    if (frame % 10 == 0 && run && !pictures_.contains(QString::fromStdString(run->name()))) fill_runs();
  });
  connect(&analyst_, &Analyst::changed, this, &Drawer::fill_checks);
  connect(&document_, &Document::replaced, this, [this] { pictures_.clear(); });
  connect(&watcher_, &QFutureWatcher<Shot>::finished, this, [this] {
    const Shot s = watcher_.result();
    if (!s.image.isNull()) pictures_[s.run] = {s.frame, QPixmap::fromImage(s.image)};
    fill_runs();
    next_picture();
  });
  fill_runs();
  fill_checks();
}

void Drawer::show_checks() { checks_tab_->click(); }

void Drawer::want_picture(const QString& run, int frame) {
  for (const auto& w : wanted_)
    if (w.first == run) return;
  wanted_.append({run, frame});
  next_picture();
}

void Drawer::next_picture() {
  if (watcher_.isRunning() || wanted_.isEmpty()) return;
  const auto [name, frame] = wanted_.takeFirst();
  for (const Run& r : runs_.all()) {
    if (QString::fromStdString(r.name()) != name) continue;
    watcher_.setFuture(QtConcurrent::run(&beside(), [run = r, name = name, frame = frame]() -> Shot {
      step_back();
      try {
        const Photographer photographer(run, run.shot);
        const Image image = photographer.picture(frame, picture_width * 2, picture_height * 2);
        const auto bytes = display_bytes(image);
        QImage picture =
            QImage(bytes.data(), image.width, image.height, image.width * 3, QImage::Format_RGB888).copy();
        picture.setDevicePixelRatio(2);
        return {name, frame, picture};
      } catch (...) {  // the stage says why, where it is looked at
        return {name, frame, QImage()};
      }
    }));
    return;
  }
}

void Drawer::fill_runs() {
  // Keeps the keyboard focus, although all cards are rebuilt.
  const QWidget* focused = QApplication::focusWidget();
  const QString at = focused && pages_->isAncestorOf(focused) ? focused->objectName() : QString();
  if (!at.isEmpty()) runs_tab_->setFocus();
  make_cards();
  if (!at.isEmpty())
    for (QWidget* w : findChildren<QWidget*>(at))
      if (w->isVisible()) w->setFocus();
}

void Drawer::make_cards() {
  clear(runs_column_);
  const auto& all = runs_.all();
  for (const BadRun& b : runs_.bad()) make_bad_card(b);
  if (all.empty()) {
    runs_column_->addWidget(
        label(this, tr("Every run is kept here, with its picture and what was changed since the one before."),
              "quiet"));
    return;
  }
  static constexpr const char* states[] = {QT_TR_NOOP("running"), QT_TR_NOOP("done"), QT_TR_NOOP("stopped"),
                                           QT_TR_NOOP("failed")};
  for (size_t i = 0; i < all.size(); ++i) {
    const Run& r = all[i];
    const QString name = QString::fromStdString(r.name());
    auto* card = new RunCard(this, [this, name] { runs_.choose(name); });
    card->setObjectName("run_" + name);
    card->setProperty("chosen", runs_.chosen() == &r);
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(2, 2, 2, 10);
    column->setSpacing(2);
    auto* picture = new QLabel(card);
    picture->setFixedHeight(picture_height);
    picture->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);  // a scroll bar may cut its sides
    picture->setAlignment(Qt::AlignCenter);
    picture->setStyleSheet("background: #4A4E4E; border-top-left-radius: 6px; border-top-right-radius: 6px;");
    // A frame from where the shot is well under way.
    const int frame =
        r.frames.empty() ? 0 : std::min(r.frames.back().frame, std::max(r.first_frame, r.last_frame * 3 / 5));
    const auto have = pictures_.value(name);
    if (!have.second.isNull()) picture->setPixmap(have.second);
    if (frame > 1 && have.first != frame && (have.first == 0 || r.state != RunState::running))
      want_picture(name, frame);
    column->addWidget(picture);
    auto* words = new QVBoxLayout;
    words->setContentsMargins(10, 6, 10, 0);
    words->setSpacing(2);
    const RunState state =
        r.state == RunState::running && !runs_.under_way(name) ? RunState::stopped : r.state;
    QStringList detail{tr("<b>Run %1</b>").arg(r.number())};
    if (r.cell_size > 0)  // else it is not known yet
      detail << QString::fromStdString(format_quantity(r.cell_size, Unit::length));
    detail << (state == RunState::done ? QString::fromStdString(format_duration(r.seconds))
                                       : tr(states[int(state)]));
    words->addWidget(label(card, detail.join(" · "), nullptr));
    QStringList lines;
    bool differs = false;
    if (i + 1 < all.size()) {
      for (const Change& c : simulation_changes(all[i + 1].shot, r.shot))
        lines << QString::fromStdString(c.text);
      differs = !lines.isEmpty();
      if (!differs) lines << tr("Nothing changed");
    } else {
      lines << tr("First run of this shot");
    }
    const qsizetype most = 3;
    if (lines.size() > most) lines = lines.mid(0, most) << tr("and %1 more").arg(lines.size() - most);
    words->addWidget(label(card, lines.join("\n"), differs ? "changed" : "quiet"));
    if (!r.message.empty()) words->addWidget(label(card, QString::fromStdString(r.message), "quiet"));
    if (!r.damage.empty()) words->addWidget(label(card, QString::fromStdString(r.damage), "warning"));
    const bool older = !same_simulation(r.shot, document_.shot());
    if (runs_.chosen() == &r && older && runs_.state() == Runs::State::idle)
      words->addWidget(label(card, tr("The settings were changed since."), "quiet"));
    auto* links = new FlowLayout(nullptr, 14, 0);
    const auto link = [&](const QString& text, const QString& tip, const char* id, auto&& pressed) {
      auto* b = new QPushButton(text, card);
      b->setProperty("role", "link");
      b->setProperty("flush", true);  // in line with the text above
      b->setToolTip(tip);
      b->setObjectName(QString("%1_%2").arg(id, name));
      b->setAccessibleName(tr("%1, run %2").arg(text).arg(r.number()));
      connect(b, &QPushButton::clicked, this, pressed, Qt::QueuedConnection);  // the card may go with it
      links->addWidget(b);
    };
    if (runs_.compared() == &r)
      link(tr("End comparison"), tr("Shows one run alone again"), "compare", [this] { runs_.compare({}); });
    else if (runs_.chosen() && runs_.chosen() != &r)
      link(tr("Compare"), tr("Shows this run beside run %1").arg(runs_.chosen()->number()), "compare",
           [this, name] { compare(name); });
    if (older)
      link(tr("Use its settings"), tr("Sets the shot to what this run was made from; look and camera stay"),
           "use", [this, name] { use_settings(name); });
    if (runs_.state() == Runs::State::idle && r.newest_frame() > 0)
      link(tr("Go on from the playhead"),
           tr("Starts a new run that takes this one's frames up to the playhead, and goes on from there with "
              "the shot as it is now"),
           "go_on", [this, number = r.number()] { Q_EMIT going_on(number, document_.frame()); });
    if (!runs_.under_way(name))
      link(tr("Delete"), tr("Moves this run and its frames to the trash"), "delete",
           [this, name] { remove(name); });
    words->addLayout(links);
    card->setAccessibleName(tr("Run %1, %2").arg(r.number()).arg(tr(states[int(state)])));
    column->addLayout(words);
    runs_column_->addWidget(card);
    card->show();
  }
}

/// A run that can't be read is named and never passed over.
void Drawer::make_bad_card(const BadRun& bad) {
  const QString name = QString::fromStdString(bad.folder.filename().string());
  auto* card = new QFrame(this);
  card->setObjectName("bad_" + name);
  card->setProperty("role", "card");
  auto* column = new QVBoxLayout(card);
  column->setContentsMargins(12, 10, 12, 12);
  column->setSpacing(4);
  column->addWidget(label(
      card, bad.number ? tr("Run %1 can't be read").arg(bad.number) : tr("“%1” can't be read").arg(name),
      "fault"));
  column->addWidget(label(card, QString::fromStdString(bad.problem), "quiet"));
  if (bad.number) {
    auto* gone = new QPushButton(tr("Delete"), card);
    gone->setProperty("role", "link");
    gone->setProperty("flush", true);
    gone->setObjectName("delete_" + name);
    gone->setAccessibleName(tr("Delete, run %1").arg(bad.number));
    gone->setToolTip(tr("Moves this run and its frames to the trash"));
    connect(
        gone, &QPushButton::clicked, this, [this, name] { remove(name); }, Qt::QueuedConnection);
    column->addWidget(gone, 0, Qt::AlignLeft);
  }
  runs_column_->addWidget(card);
  card->show();
}

void Drawer::compare(const QString& name) {
  if (document_.stage() == Stage::set) document_.show_stage(Stage::fluid);
  runs_.compare(name);
}

void Drawer::use_settings(const QString& name) {
  for (const Run& r : runs_.all())
    if (QString::fromStdString(r.name()) == name)
      document_.edit(tr("Use the settings of run %1").arg(name.toInt()),
                     [&](pour::Shot& s) { s = seen_as(r.shot, s); });
}

void Drawer::remove(const QString& name) {
  const bool gone = runs_.remove(name);
  if (gone) pictures_.remove(name);
  Q_EMIT removed(name, gone);
}

void Drawer::fill_checks() {
  clear(checks_column_);
  const auto& checks = analyst_.now().checks;
  checks_tab_->setText(checks.empty() ? tr("Checks") : tr("Checks %1").arg(checks.size()));
  for (size_t i = 0; i < checks.size(); ++i) {
    const Check& c = checks[i];
    auto* card = new QFrame(this);
    card->setProperty("role", "card");
    auto* column = new QVBoxLayout(card);
    column->setContentsMargins(12, 10, 12, 12);
    column->setSpacing(4);
    column->addWidget(
        label(card, QString::fromStdString(c.title), c.level == CheckLevel::fault ? "fault" : "warning"));
    column->addWidget(label(card, QString::fromStdString(c.text), "quiet"));
    if (c.fix) {
      auto* fix = new QPushButton(QString::fromStdString(c.fix_name), card);
      fix->setProperty("role", "fix");
      fix->setObjectName(QString("fix_%1").arg(i));
      connect(fix, &QPushButton::clicked, this,
              [this, c] { document_.edit_beside(QString::fromStdString(c.fix_name), c.fix); });
      column->addWidget(fix, 0, Qt::AlignLeft);
    }
    checks_column_->addWidget(card);
  }
  if (checks.empty()) {
    checks_column_->addWidget(label(this, tr("All is fine"), "fine"));
    checks_column_->addWidget(
        label(this, tr("Sources, strokes, bounds, lights, memory and disk were looked at."), "quiet"));
  }
}
