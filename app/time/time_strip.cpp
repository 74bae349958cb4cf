#include "time/time_strip.h"
#include "time/strip_measures.h"

#include <cmath>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include "base/error.h"
#include "base/units.h"
#include "runs.h"
#include "shot/animate.h"
#include "shot/edit.h"
#include "skins.h"
#include "theme.h"
#include "view/frames.h"

using namespace pour;

namespace {

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

TimeStrip::TimeStrip(Document& document, Runs& runs, Frames& frames, Skins& skins, QWidget* parent)
    : QWidget(parent), document_(document), runs_(runs), frames_(frames), skins_(skins) {
  connect(&skins_, &Skins::changed, this, qOverload<>(&QWidget::update));
  setObjectName("time_strip");
  setAccessibleName(tr("Time"));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setFixedHeight(152);
  setToolTip({});
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
  connect(&document_, &Document::changed, this, [this] {  // what is gone is not selected any more
    std::erase_if(selected_, [this](const SelectedKey& k) {
      try {
        const Track* track = find_track(document_.shot(), k.path);
        return !track || !track->key_at(k.time);
      } catch (const Fault&) {
        return true;
      }
    });
  });
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

TimeScale TimeStrip::scale() const {
  TimeScale s;
  s.left = left_width + 20, s.right = width() - right_gap;
  s.first = view_last_ > 0 ? view_first_ : 1;
  s.last = view_last_ > 0 ? view_last_ : std::max(2, document_.shot().film.frames);
  return s;
}

std::pair<double, double> TimeStrip::ends_of(const Span& span) const {
  const double frames = document_.shot().film.frames;
  const double x0 = x_of(film_frame(span.from)),
               x1 = x_of(std::min(last_frame_of(document_.clock(), span), frames));
  return {x0, std::max(x0 + least_bar, x1)};
}

void TimeStrip::set_view(double first, double last) {
  const double all = std::max(2, document_.shot().film.frames);
  const double span = std::clamp(last - first, 4.0, all - 1);
  first = std::clamp(first, 1.0, std::max(1.0, all - span));
  view_first_ = first, view_last_ = first + span;
  if (span >= all - 1) view_first_ = view_last_ = 0;
  update();
}

std::vector<Lane> TimeStrip::lanes() const {
  return lanes_of(document_.shot(), tall_, ruler_height - scroll_, lane_height, tall_height);
}

const Lane* TimeStrip::lane_at(const std::vector<Lane>& all, const QPointF& p) const {
  if (p.y() < ruler_height) return nullptr;
  for (const Lane& l : all)
    if (p.y() >= l.top && p.y() < l.top + l.height) return &l;
  return nullptr;
}

void TimeStrip::update_labels() {
  const Shot& s = document_.shot();
  const double t = double(document_.frame() - 1) / s.film.frame_rate;
  counter_->setText(QString("<b>%1</b> / %2 &nbsp; <span style='color:%3'>%4 s</span>")
                        .arg(document_.frame())
                        .arg(s.film.frames)
                        .arg(theme().quiet.name())
                        .arg(t, 0, 'f', 2));
}

TimeStrip::Hit TimeStrip::hit(const QPointF& at) const {
  if (at.y() < 5) return {Grip::height, {}, 0, 0, 0};
  if (at.x() < left_width) return {};
  if (at.y() < ruler_height && at.y() > ruler_height - span_height - 2)
    if (const auto span = span_of(document_.shot(), selected_))
      for (const double end : {span->first, span->second})
        if (std::abs(scale().x_of(end) - at.x()) < key_reach) return {Grip::stretch, {}, 0, 0, end};
  const auto all = lanes();
  const Lane* lane = lane_at(all, at);
  if (!lane || lane->kind == Lane::Kind::run) return {Grip::playhead, {}, 0, 0, 0};
  const TimeScale time = scale();
  if (lane->kind == Lane::Kind::pour) {
    const Pour* pour = document_.shot().pour(id_in(lane->path));
    for (size_t k = 0; pour && k < pour->windows.list.size(); ++k) {
      const auto [x0, x1] = ends_of(pour->windows.list[k]);
      if (std::abs(at.x() - x1) < 7) return {Grip::last, lane->path, k, 0, 0};
      if (std::abs(at.x() - x0) < 7) return {Grip::first, lane->path, k, 0, 0};
      if (at.x() > x0 && at.x() < x1) return {Grip::whole, lane->path, k, 0, 0};
    }
    return {Grip::playhead, lane->path, 0, 0, 0};
  }
  const TrackView view(document_.shot(), document_.clock(), lane->path);
  Hit nearest{Grip::select, lane->path, 0, 0, 0};
  double least = key_reach;
  const auto& keys = view.track().keys;
  for (size_t i = 0; i < keys.size(); ++i) {
    const Key& k = keys[i];
    for (int p = 0; p < std::max(1, view.parts()); ++p) {
      const QPointF d = view.key_place(*lane, time, k, p) - at;
      if (const double away = std::hypot(d.x(), lane->tall ? d.y() : 0.0); away < least)
        least = away, nearest = {Grip::key, lane->path, 0, k.time, 0};
    }
    if (!lane->tall || k.ease != Ease::own || i + 1 == keys.size() || view.parts() != 1) continue;
    const QPointF a = view.key_place(*lane, time, k, 0), b = view.key_place(*lane, time, keys[i + 1], 0);
    const QPointF out(a.x() + (b.x() - a.x()) * k.handles.out_time,
                      a.y() + (b.y() - a.y()) * k.handles.out_way),
        in(a.x() + (b.x() - a.x()) * k.handles.in_time, a.y() + (b.y() - a.y()) * k.handles.in_way);
    if (std::hypot(out.x() - at.x(), out.y() - at.y()) < least)
      return {Grip::handle_out, lane->path, 0, k.time, 0};
    if (std::hypot(in.x() - at.x(), in.y() - at.y()) < least)
      return {Grip::handle_in, lane->path, 0, k.time, 0};
  }
  return nearest;
}

void TimeStrip::mousePressEvent(QMouseEvent* e) {
  pressed_ = at_ = e->position();
  moved_ = false;
  if (e->button() != Qt::LeftButton) return;
  held_ = hit(pressed_);
  grab_ = scale().frame_at(pressed_.x());
  before_ = document_.shot(), selected_before_ = selected_;
  ++drags_;
  const bool more = e->modifiers() & (Qt::ShiftModifier | Qt::ControlModifier);
  if (held_.grip == Grip::first || held_.grip == Grip::last || held_.grip == Grip::whole)
    grabbed_ = document_.shot().pour(id_in(held_.path))->windows.list[held_.window];
  else if (held_.grip == Grip::playhead)
    play(false), document_.set_frame(int(std::lround(grab_)));
  if (held_.grip == Grip::key) {
    const SelectedKey key{held_.path, held_.time};
    if (more && selected_.contains(key))
      selected_.erase(key);
    else if (more || selected_.contains(key))
      selected_.insert(key);
    else
      selected_ = {key};
  } else if (held_.grip == Grip::select && !more) {
    selected_.clear();
  }
  if (held_.grip == Grip::none && pressed_.x() < left_width) {
    const auto all = lanes();
    const Lane* lane = lane_at(all, pressed_);
    if (lane && lane->kind == Lane::Kind::track && pressed_.x() < 40) tall_[lane->path] = !lane->tall;
  }
  update();
}

void TimeStrip::mouseMoveEvent(QMouseEvent* e) {
  at_ = e->position();
  if (e->buttons() == Qt::NoButton) {
    const Grip g = hit(at_).grip;
    setCursor(g == Grip::height                                           ? Qt::SizeVerCursor
              : g == Grip::first || g == Grip::last || g == Grip::stretch ? Qt::SizeHorCursor
              : g == Grip::whole || g == Grip::key                        ? Qt::OpenHandCursor
              : g == Grip::handle_in || g == Grip::handle_out             ? Qt::PointingHandCursor
                                                                          : Qt::ArrowCursor);
    return;
  }
  if (!(e->buttons() & Qt::LeftButton)) return;
  moved_ = moved_ || (at_ - pressed_).manhattanLength() > 3;
  const double frame = scale().frame_at(at_.x());
  switch (held_.grip) {
    case Grip::playhead:
      return document_.set_frame(int(std::lround(frame)));
    case Grip::first:
    case Grip::last:
    case Grip::whole:
      return drag_window(frame);
    case Grip::key:
      if (moved_) drag_keys(at_);
      return;
    case Grip::stretch:
      if (moved_) stretch_keys(frame);
      return;
    case Grip::handle_out:
    case Grip::handle_in:
      return drag_handle(at_);
    case Grip::height:
      setFixedHeight(std::clamp(height() - int(at_.y() - pressed_.y()), least_height, most_height));
      return;
    case Grip::select:
      select_in(QRectF(pressed_, at_).normalized());
      return update();
    case Grip::none:
      return;
  }
}

void TimeStrip::mouseReleaseEvent(QMouseEvent* e) {
  // A click beside the keys puts the playhead there.
  if (e->button() == Qt::LeftButton && held_.grip == Grip::select && !moved_)
    play(false), document_.set_frame(int(std::lround(grab_)));
  held_ = {};
  update();
}

void TimeStrip::mouseDoubleClickEvent(QMouseEvent* e) {
  const auto all = lanes();
  const Lane* lane = lane_at(all, e->position());
  const Hit h = hit(e->position());
  if (e->position().y() < ruler_height) return set_view(1, 1e9);
  if (!lane) return;
  const double frame = std::round(scale().frame_at(e->position().x()));
  if (e->position().x() < left_width) {
    if (lane->kind == Lane::Kind::track) tall_[lane->path] = !lane->tall, update();
  } else if (h.grip == Grip::key) {
    edit_key({h.path, h.time}, e->globalPosition().toPoint());
  } else if (lane->kind == Lane::Kind::track) {
    add_key(*lane, frame);
  } else if (lane->kind == Lane::Kind::pour && h.grip == Grip::playhead) {
    document_.edit(tr("Add a pour window"), [&](Shot& s) {
      add_window(s, id_in(lane->path), {int(frame), int(frame) + 11});
    });
  }
}

void TimeStrip::wheelEvent(QWheelEvent* e) {
  const double turn = e->angleDelta().y() != 0 ? e->angleDelta().y() : e->angleDelta().x();
  const TimeScale s = scale();
  if (e->modifiers() & Qt::ControlModifier) {
    const double at = std::clamp(s.frame_at(e->position().x()), s.first, s.last), by = std::pow(0.998, turn);
    return set_view(at - (at - s.first) * by, at + (s.last - at) * by);
  }
  if (e->modifiers() & Qt::ShiftModifier) {
    const double by = -turn / 1200 * (s.last - s.first);
    return set_view(s.first + by, s.last + by);
  }
  const auto all = lanes();
  const int bottom = all.back().top + all.back().height + scroll_;
  scroll_ = std::clamp(scroll_ - int(turn / 4), 0, std::max(0, bottom - height()));
  update();
}

void TimeStrip::keyPressEvent(QKeyEvent* e) {
  const bool alt = e->modifiers() & Qt::AltModifier;
  if (e->matches(QKeySequence::Copy)) return copy_selected();
  if (e->matches(QKeySequence::Paste)) return paste();
  switch (e->key()) {
    case Qt::Key_Left:
      return alt ? nudge_selected(-1) : document_.set_frame(document_.frame() - 1);
    case Qt::Key_Right:
      return alt ? nudge_selected(1) : document_.set_frame(document_.frame() + 1);
    case Qt::Key_Home:
      return document_.set_frame(1);
    case Qt::Key_End:
      return document_.set_frame(std::max(1, runs_.frames_done()));
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
      return remove_selected();
    case Qt::Key_F2:
      if (selected_.size() == 1) edit_key(*selected_.begin(), mapToGlobal(QPoint(width() / 2, 0)));
      return;
    default:
      QWidget::keyPressEvent(e);
  }
}

bool TimeStrip::event(QEvent* e) {
  // Keys that the window has a use for as well belong to what is selected here.
  if (e->type() == QEvent::ShortcutOverride) {
    auto* key = static_cast<QKeyEvent*>(e);
    if (key->matches(QKeySequence::Copy) || key->matches(QKeySequence::Paste) || key->key() == Qt::Key_Delete)
      e->accept();
  }
  return QWidget::event(e);
}

void TimeStrip::play(bool on) {
  if (on == playing()) return;
  if (on) {
    const int last = std::max(1, runs_.frames_done());
    if (document_.frame() >= last) document_.set_frame(1);
    started_at_ = document_.frame();
    clock_.start();
    timer_.start(std::max(4, int(500 / document_.shot().film.frame_rate)));
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
  const int wanted = int(started_at_ + double(clock_.elapsed()) / 1000 * document_.shot().film.frame_rate);
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
