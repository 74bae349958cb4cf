#include "time/time_strip.h"

#include <cmath>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include "base/units.h"
#include "runs.h"
#include "theme.h"
#include "view/frames.h"

using namespace pour;

namespace {
constexpr int left_width = 368, right_gap = 40, ruler_height = 34, lane_height = 29;

QIcon transport_icon(int shape, const QColor& c) {
  QPixmap pixmap(32, 32);
  pixmap.fill(Qt::transparent);
  QPainter p(&pixmap);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(c);
  const auto triangle = [&](double x0, double x1) {
    QPainterPath path;
    path.moveTo(x0, 6), path.lineTo(x0, 26), path.lineTo(x1, 16), path.closeSubpath();
    p.drawPath(path);
  };
  if (shape == 0) p.drawRect(QRectF(6, 6, 4, 20)), triangle(27, 12);
  if (shape == 1) triangle(9, 27);
  if (shape == 2) p.drawRect(QRectF(22, 6, 4, 20)), triangle(5, 20);
  if (shape == 3) p.drawRect(QRectF(8, 6, 6, 20)), p.drawRect(QRectF(18, 6, 6, 20));
  return pixmap;
}
}  // namespace

TimeStrip::TimeStrip(Document& document, Runs& runs, Frames& frames, QWidget* parent)
    : QWidget(parent), document_(document), runs_(runs), frames_(frames) {
  setObjectName("time_strip");
  setAccessibleName(tr("Time"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setFixedHeight(152);
  auto* bar = new QWidget(this);
  bar->setGeometry(0, 0, left_width, ruler_height);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(12, 3, 12, 3);
  row->setSpacing(4);
  const auto button = [&](int icon, const QString& name, const QString& tip) {
    auto* b = new QPushButton(bar);
    b->setIcon(transport_icon(icon, theme().text));
    b->setIconSize({16, 16});
    b->setFixedSize(28, 28);
    b->setStyleSheet(QString("QPushButton { border: 1px solid transparent; border-radius: 14px; background: "
                             "transparent; padding: 0; }"
                             "QPushButton:hover, QPushButton:focus { border-color: %1; }")
                         .arg(theme().accent.name()));
    b->setAccessibleName(name);
    b->setToolTip(tip);
    b->setObjectName(name);
    row->addWidget(b);
    return b;
  };
  first_ = button(0, tr("First frame"), tr("To the first frame (Home)"));
  play_ = button(1, tr("Play"), tr("Play what is there (Space)"));
  last_ = button(2, tr("Last frame"), tr("To the last frame that is there (End)"));
  counter_ = new QLabel(bar);
  row->addSpacing(8);
  row->addWidget(counter_, 1);
  loop_ = new QPushButton(tr("Loop"), bar);
  loop_->setCheckable(true);
  loop_->setChecked(true);
  loop_->setProperty("role", "tab");
  loop_->setToolTip(tr("Starts again at the end"));
  row->addWidget(loop_);
  connect(first_, &QPushButton::clicked, this, [this] { document_.set_frame(1); });
  connect(last_, &QPushButton::clicked, this,
          [this] { document_.set_frame(std::max(1, runs_.frames_done())); });
  connect(play_, &QPushButton::clicked, this, [this] { play(!playing()); });
  timer_.setTimerType(Qt::PreciseTimer);
  connect(&timer_, &QTimer::timeout, this, &TimeStrip::tick);
  for (auto signal : {&Document::changed, &Document::frame_changed})
    connect(&document_, signal, this, [this] {
      update_labels();
      update();
    });
  connect(&runs_, &Runs::changed, this, qOverload<>(&QWidget::update));
  connect(&runs_, &Runs::started, this, [this] {
    const int at = document_.frame();
    const bool at_an_end = at == 1 || at == runs_.frames_done() || at == document_.shot().film.frames;
    newest_ = at_an_end ? at : 0;
  });
  connect(&runs_, &Runs::progress, this, &TimeStrip::follow);
  update_labels();
}

int TimeStrip::lanes_shown() const {
  return std::max(0, (height() - ruler_height - lane_height) / lane_height);
}

void TimeStrip::update_labels() {
  const Shot& s = document_.shot();
  const double t = double(document_.frame() - 1) / s.film.fps;
  counter_->setText(QString("<b>%1</b> / %2 &nbsp; <span style='color:%3'>%4 s</span>")
                        .arg(document_.frame())
                        .arg(s.film.frames)
                        .arg(theme().quiet.name())
                        .arg(t, 0, 'f', 2));
}

double TimeStrip::x_of(double frame) const {
  const int frames = document_.shot().film.frames;
  return left_width + 20 + (frame - 1) * (width() - left_width - 20 - right_gap) / std::max(1, frames - 1);
}
double TimeStrip::frame_at(double x) const {
  const int frames = document_.shot().film.frames;
  return 1 +
         (x - left_width - 20) * std::max(1, frames - 1) / std::max(1, width() - left_width - 20 - right_gap);
}
int TimeStrip::lane_y(int lane) const { return ruler_height + lane_height * (lane + 1 - scroll_); }

void TimeStrip::paintEvent(QPaintEvent*) {
  const Theme& t = theme();
  const Shot& shot = document_.shot();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), t.panel);
  QFont small = font();
  small.setPixelSize(12);
  p.setFont(small);
  const auto line = [&](double x0, double y0, double x1, double y1) {
    p.setPen(QPen(t.line, 1));
    p.drawLine(QPointF(x0, y0), QPointF(x1, y1));
  };
  line(0, 0.5, width(), 0.5);
  line(left_width - 0.5, 0, left_width - 0.5, height());
  // Ruler: a mark a second where there is room, at kind steps.
  const int second = std::max(1, int(std::lround(shot.film.fps)));
  int step = second;
  for (const int more : {1, 2, 5, 10, 30, 60, 300, 600}) {
    step = second * more;
    if (x_of(1 + step) - x_of(1) > 64) break;
  }
  p.setPen(t.quiet);
  const int frames = shot.film.frames;
  for (int f = 0; f <= frames; f += step) {
    const int frame = std::max(1, f);
    p.drawText(QRectF(x_of(frame) - 40, 0, 80, ruler_height), Qt::AlignCenter, QString::number(frame));
  }
  // Lanes.
  const auto label = [&](int y, const QString& text) {
    line(0, y + 0.5, width(), y + 0.5);
    p.setPen(t.text);
    p.drawText(QRectF(44, y, left_width - 60, lane_height), Qt::AlignVCenter | Qt::AlignLeft,
               p.fontMetrics().elidedText(text, Qt::ElideRight, left_width - 60));
  };
  int y = ruler_height;
  const Run* run = runs_.chosen();
  label(y, run ? tr("Run %1").arg(run->number()) : tr("No run yet"));
  const double mid = y + lane_height / 2.0;
  p.setPen(Qt::NoPen);
  p.setBrush(t.line);
  p.drawRoundedRect(QRectF(x_of(1) - 3, mid - 3, x_of(frames) - x_of(1) + 6, 6), 3, 3);
  if (run && !run->frames.empty()) {
    p.setBrush(t.accent);
    for (auto f = run->stored.begin(); f != run->stored.end() && *f <= frames;) {  // gaps are seen
      const int first = *f;
      int last = first;
      while (++f != run->stored.end() && *f == last + 1 && *f <= frames) last = *f;
      p.drawRoundedRect(QRectF(x_of(first) - 3, mid - 3, x_of(last) - x_of(first) + 6, 6), 3, 3);
    }
    QString note = tr("all frames");
    const int done = run->frames.back().frame;
    const bool here = runs_.under_way(QString::fromStdString(run->name()));
    if (const double left = runs_.seconds_left(); here && runs_.state() == Runs::State::running) {
      note = tr("%1 of %2").arg(runs_.current_frame()).arg(run->last_frame);
      if (left > 0) note += " · " + QString::fromStdString(format_duration(left));
    } else if (here && runs_.state() == Runs::State::idle)
      note = tr("%1 of %2, by another program").arg(done).arg(run->last_frame);
    else if (here)
      note = tr("paused at %1").arg(done);
    else if (done < run->last_frame)
      note = tr("%1 of %2, stopped").arg(done).arg(run->last_frame);
    else if (is_unfinished(*run))
      note = tr("frames are missing");
    else if (done < frames)
      note = tr("frames %1 – %2").arg(run->first_frame).arg(done);
    // Beside its name, where there is room for it.
    p.setPen(t.quiet);
    const double from = 44 + p.fontMetrics().horizontalAdvance(tr("Run %1").arg(run->number())) + 16;
    p.drawText(QRectF(from, y, left_width - 16 - from, lane_height), Qt::AlignVCenter | Qt::AlignRight,
               p.fontMetrics().elidedText(note, Qt::ElideRight, int(left_width - 16 - from)));
  }
  for (int i = scroll_; i < int(shot.pours.size()); ++i) {
    const Pour& s = shot.pours[size_t(i)];
    y = lane_y(i);
    if (y + lane_height > height() + 8) break;
    label(y, tr("%1 pours").arg(QString::fromStdString(s.name)));
    for (size_t k = 0; k < s.windows.list.size(); ++k) {
      const FrameRange& r = s.windows.list[k];
      const double x0 = x_of(r.first), x1 = x_of(std::min(r.last, frames));
      const QRectF bar(x0, y + 6, std::max(6.0, x1 - x0), lane_height - 12);
      const bool here = held_.pour == s.id && held_.window == k && held_.grip != Grip::none;
      p.setPen(QPen(here ? t.accent : t.accent.lighter(140), 1));
      QColor fill = t.accent;
      fill.setAlpha(here ? 90 : 60);
      p.setBrush(fill);
      if (r.first <= frames) p.drawRoundedRect(bar, 4, 4);
      p.setPen(t.text);
      p.drawText(bar.adjusted(8, 0, 200, 0), Qt::AlignVCenter | Qt::AlignLeft,
                 tr("%1 – %2").arg(r.first).arg(r.last));
    }
  }
  // Playhead.
  const double x = x_of(document_.frame());
  p.setPen(QPen(t.time, 2));
  p.drawLine(QPointF(x, 22), QPointF(x, height()));
  p.setPen(Qt::NoPen);
  p.setBrush(t.time);
  QPainterPath drop;  // a drop, point down
  drop.addEllipse(QPointF(x, 20), 7, 7);
  drop.moveTo(x - 6, 23), drop.lineTo(x + 6, 23), drop.lineTo(x, 33), drop.closeSubpath();
  drop.setFillRule(Qt::WindingFill);
  p.drawPath(drop);
  if (hasFocus()) {
    p.setPen(QPen(t.accent, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(left_width + 1.5, 1.5, width() - left_width - 3, height() - 3));
  }
}

TimeStrip::Hit TimeStrip::hit(const QPointF& at) const {
  if (at.x() < left_width) return {};
  const Shot& shot = document_.shot();
  for (int i = scroll_; i < int(shot.pours.size()); ++i) {
    const int y = lane_y(i);
    if (at.y() < y || at.y() >= y + lane_height) continue;
    const Pour& pour = shot.pours[size_t(i)];
    for (size_t k = 0; k < pour.windows.list.size(); ++k) {
      const FrameRange& r = pour.windows.list[k];
      const double x0 = x_of(r.first), x1 = std::max(x0 + 6, x_of(std::min(r.last, shot.film.frames)));
      if (std::abs(at.x() - x1) < 7) return {Grip::last, pour.id, k};
      if (std::abs(at.x() - x0) < 7) return {Grip::first, pour.id, k};
      if (at.x() > x0 && at.x() < x1) return {Grip::whole, pour.id, k};
    }
  }
  return {Grip::playhead, {}, 0};
}

void TimeStrip::mousePressEvent(QMouseEvent* e) {
  held_ = hit(e->position());
  grab_ = frame_at(e->position().x());
  ++drags_;
  if (const Pour* p = document_.shot().pour(held_.pour))
    grabbed_ = p->windows.list[held_.window];
  else if (held_.grip == Grip::playhead)
    play(false), document_.set_frame(int(std::lround(grab_)));
  update();
}

void TimeStrip::mouseMoveEvent(QMouseEvent* e) {
  if (e->buttons() == Qt::NoButton) {
    const Grip g = hit(e->position()).grip;
    setCursor(g == Grip::first || g == Grip::last ? Qt::SizeHorCursor
              : g == Grip::whole                  ? Qt::OpenHandCursor
                                                  : Qt::ArrowCursor);
    return;
  }
  const double at = frame_at(e->position().x());
  if (held_.grip == Grip::playhead) {
    document_.set_frame(int(std::lround(at)));
  } else if (const Pour* p = document_.shot().pour(held_.pour); p && held_.window < p->windows.list.size()) {
    // It may have been undone meanwhile.
    const int delta = int(std::lround(at - grab_));
    const auto& list = p->windows.list;
    const int lowest = held_.window ? list[held_.window - 1].last + 1 : 1,
              highest = held_.window + 1 < list.size() ? list[held_.window + 1].first - 1
                                                       : document_.shot().film.frames;
    FrameRange r = grabbed_;
    if (held_.grip == Grip::first) r.first = std::clamp(r.first + delta, lowest, r.last);
    if (held_.grip == Grip::last) r.last = std::clamp(r.last + delta, r.first, std::max(r.first, highest));
    if (held_.grip == Grip::whole) {
      const int move = std::clamp(delta, lowest - r.first, std::max(lowest - r.first, highest - r.last));
      r.first += move, r.last += move;
    }
    document_.edit(
        tr("Pour window"), [&](Shot& s) { s.pour(held_.pour)->windows.list[held_.window] = r; },
        QString("pour %1").arg(drags_));
  }
}

void TimeStrip::mouseReleaseEvent(QMouseEvent*) {
  held_ = {};
  update();
}

void TimeStrip::wheelEvent(QWheelEvent* e) {
  const int most = std::max(0, int(document_.shot().pours.size()) - lanes_shown());
  scroll_ = std::clamp(scroll_ - (e->angleDelta().y() > 0 ? 1 : -1), 0, most);
  update();
}

void TimeStrip::keyPressEvent(QKeyEvent* e) {
  switch (e->key()) {
    case Qt::Key_Left:
      return document_.set_frame(document_.frame() - 1);
    case Qt::Key_Right:
      return document_.set_frame(document_.frame() + 1);
    case Qt::Key_Home:
      return document_.set_frame(1);
    case Qt::Key_End:
      return document_.set_frame(std::max(1, runs_.frames_done()));
    default:
      QWidget::keyPressEvent(e);
  }
}

void TimeStrip::play(bool on) {
  if (on == playing()) return;
  if (on) {
    const int last = std::max(1, runs_.frames_done());
    if (document_.frame() >= last) document_.set_frame(1);
    started_at_ = document_.frame();
    clock_.start();
    timer_.start(std::max(4, int(500 / document_.shot().film.fps)));
  } else {
    timer_.stop();
  }
  document_.set_playing(on);
  play_->setIcon(transport_icon(on ? 3 : 1, theme().text));
  play_->setAccessibleName(on ? tr("Pause playing") : tr("Play"));
}

/// The playhead goes along with the run until it is put somewhere else; put on the newest frame, it goes
/// along again.
void TimeStrip::follow(int frame) {
  if (!playing() && (document_.frame() == newest_ || document_.frame() == frame - 1))
    document_.set_frame(newest_ = frame);
  update();
}

void TimeStrip::tick() {
  // Real time where frames are ready; where they are not, it waits for them.
  if (!frames_.ready()) {
    started_at_ = document_.frame();
    clock_.restart();
    return;
  }
  const int last = std::min(document_.shot().film.frames, runs_.frames_done());
  const int wanted = int(started_at_ + double(clock_.elapsed()) / 1000 * document_.shot().film.fps);
  if (wanted > last) {
    if (runs_.state() == Runs::State::idle && loop_->isChecked() && last > 1) {
      document_.set_frame(1);
      started_at_ = 1;
      clock_.restart();
    } else {
      document_.set_frame(last);
      if (runs_.state() == Runs::State::idle) play(false);
    }
    return;
  }
  document_.set_frame(wanted);
}
