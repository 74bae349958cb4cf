// What the time strip looks like.
#include <cmath>
#include <QPainter>
#include <QPainterPath>

#include "base/units.h"
#include "recipe/setting_row.h"
#include "runs.h"
#include "skins.h"
#include "theme.h"
#include "time/strip_measures.h"
#include "time/time_strip.h"

using namespace pour;

namespace {

void paint_line(QPainter& p, double x0, double y0, double x1, double y1) {
  p.setPen(QPen(theme().line, 1));
  p.drawLine(QPointF(x0, y0), QPointF(x1, y1));
}

void paint_label(QPainter& p, const Lane& lane, const QString& text, int indent = 44) {
  paint_line(p, 0, lane.top + 0.5, p.device()->width(), lane.top + 0.5);
  p.setPen(theme().text);
  p.drawText(QRectF(indent, lane.top, left_width - 16 - indent, lane_height),
             Qt::AlignVCenter | Qt::AlignLeft,
             p.fontMetrics().elidedText(text, Qt::ElideRight, left_width - 16 - indent));
}

/// Colours of the parts of a vector: right, up, forward.
const QColor part_colors[3] = {QColor(0xC2, 0x57, 0x3F), QColor(0x4F, 0x8A, 0x4B), QColor(0x3F, 0x6F, 0xB2)};

}  // namespace

void TimeStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), theme().panel);
  QFont small = font();
  small.setPixelSize(12);
  p.setFont(small);
  p.setClipRect(0, ruler_height, width(), height() - ruler_height);
  for (const Lane& lane : lanes()) {
    if (lane.top > height() || lane.top + lane.height < ruler_height) continue;
    if (lane.kind == Lane::Kind::run) paint_run(p, lane);
    if (lane.kind == Lane::Kind::pour) paint_pour(p, lane);
    if (lane.kind == Lane::Kind::track) paint_track(p, lane);
  }
  p.setClipping(false);
  paint_line(p, 0, 0.5, width(), 0.5);
  paint_line(p, left_width - 0.5, 0, left_width - 0.5, height());
  paint_ruler(p);
  paint_playhead(p);
  if (held_.grip == Grip::select && moved_) {
    QColor c = theme().accent;
    p.setPen(QPen(c, 1, Qt::DashLine));
    c.setAlpha(30);
    p.setBrush(c);
    p.drawRect(QRectF(pressed_, at_).normalized());
  }
  if (hasFocus()) {
    p.setPen(QPen(theme().accent, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(left_width + 1.5, 1.5, width() - left_width - 3, height() - 3));
  }
}

/// A mark a second where there is room, at kind steps.
void TimeStrip::paint_ruler(QPainter& p) {
  const Shot& shot = document_.shot();
  const TimeScale s = scale();
  const int second = std::max(1, int(std::lround(shot.film.frame_rate)));
  const double frame_width = s.x_of(2) - s.x_of(1);
  int step = 1;
  for (const int more : {1, 2, 5, 10})
    if (step * frame_width < 64 && more < second) step = more;
  for (const int more : {1, 2, 5, 10, 30, 60, 300, 600})
    if (step * frame_width < 64) step = second * more;
  p.setPen(theme().quiet);
  p.setClipRect(left_width, 0, width() - left_width, ruler_height);
  for (int f = 0; f <= shot.film.frames; f += step) {
    const int frame = std::max(1, f);
    p.drawText(QRectF(s.x_of(frame) - 40, 0, 80, ruler_height), Qt::AlignCenter, QString::number(frame));
  }
  paint_span(p);
  p.setClipping(false);
}

/// A bar over the selected keys, with a grip at either end to stretch them by.
void TimeStrip::paint_span(QPainter& p) {
  const auto span = span_of(document_.shot(), selected_);
  if (!span) return;
  const double first = scale().x_of(span->first), last = scale().x_of(span->second),
               y = ruler_height - span_height / 2.0;
  p.setPen(QPen(theme().time, 2));
  p.drawLine(QPointF(first, y), QPointF(last, y));
  p.setPen(Qt::NoPen);
  p.setBrush(theme().time);
  for (const double x : {first, last})
    p.drawRoundedRect(QRectF(x - 3, ruler_height - span_height, 6, span_height), 2, 2);
}

namespace {

/// Calls f(first, last) for each stretch of frames that follow each other, up to a last one.
template <class F>
void each_stretch(const std::set<int>& frames, int most, const F& f) {
  for (auto at = frames.begin(); at != frames.end() && *at <= most;) {
    const int first = *at;
    int last = first;
    while (++at != frames.end() && *at == last + 1 && *at <= most) last = *at;
    f(first, last);
  }
}

}  // namespace

void TimeStrip::paint_run(QPainter& p, const Lane& lane) {
  const Theme& t = theme();
  const int frames = document_.shot().film.frames;
  const Run* run = runs_.chosen();
  paint_label(p, lane, run ? tr("Run %1").arg(run->number()) : tr("No run yet"));
  const double mid = lane.top + lane.height / 2.0;
  p.setPen(Qt::NoPen);
  p.setBrush(t.line);
  p.drawRoundedRect(QRectF(x_of(1) - 3, mid - 3, x_of(frames) - x_of(1) + 6, 6), 3, 3);
  if (run && !run->frames.empty()) {
    p.setBrush(t.accent);
    each_stretch(run->stored, frames, [&](int first, int last) {  // gaps are seen
      p.drawRoundedRect(QRectF(x_of(first) - 3, mid - 3, x_of(last) - x_of(first) + 6, 6), 3, 3);
    });
    p.setBrush(t.warning);  // below them, the skins that are kept
    each_stretch(skins_.kept(), frames, [&](int first, int last) {
      p.drawRect(QRectF(x_of(first) - 3, mid + 5, x_of(last) - x_of(first) + 6, 2));
    });
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
    p.drawText(QRectF(from, lane.top, left_width - 16 - from, lane.height), Qt::AlignVCenter | Qt::AlignRight,
               p.fontMetrics().elidedText(note, Qt::ElideRight, int(left_width - 16 - from)));
  }
}

void TimeStrip::paint_pour(QPainter& p, const Lane& lane) {
  const Theme& t = theme();
  const Pour* pour = document_.shot().pour(id_in(lane.path));
  if (!pour) return;
  paint_label(p, lane, tr("%1 pours").arg(QString::fromStdString(pour->name)));
  p.save();
  p.setClipRect(QRectF(left_width, lane.top, width() - left_width, lane.height));
  const int frames = document_.shot().film.frames;
  const Setting windows = find_setting(document_.shot(), lane.path + ".windows");
  for (size_t k = 0; k < pour->windows.list.size(); ++k) {
    const Span& span = pour->windows.list[k];
    if (film_frame(span.from) > frames) continue;
    const auto [x0, x1] = ends_of(span);
    const QRectF bar(x0, lane.top + 6, x1 - x0, lane.height - 12);
    const bool here = held_.path == lane.path && held_.window == k && held_.grip != Grip::none;
    p.setPen(QPen(here ? t.accent : t.accent.lighter(140), 1));
    QColor fill = t.accent;
    fill.setAlpha(here ? 90 : 60);
    p.setBrush(fill);
    if (pour->pulse_period > 0) {
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(bar, 4, 4);
      const double on = pour->pulse_share * pour->pulse_period;
      for (double t = span.from; t < span.to && film_frame(t) <= frames; t += pour->pulse_period) {
        const double a = x_of(film_frame(t)), b = std::min(x_of(film_frame(t + on)), bar.right());
        if (b > a) p.fillRect(QRectF(a, bar.top() + 1, std::max(1.0, b - a), bar.height() - 2), fill);
      }
    } else {
      p.drawRoundedRect(bar, 4, 4);
    }
    p.setPen(t.text);
    p.drawText(bar.adjusted(8, 0, 200, 0), Qt::AlignVCenter | Qt::AlignLeft,
               QString::fromStdString(to_text(windows, Windows{{span}})).replace("-", " – "));
  }
  if (pour->fill_at.time) {
    const double x = x_of(film_frame(*pour->fill_at.time));
    p.setPen(Qt::NoPen);
    p.setBrush(t.accent);
    p.drawEllipse(QPointF(x, lane.top + lane.height / 2.0), 5, 5);
    if (pour->windows.list.empty()) {
      p.setPen(t.text);
      p.drawText(QRectF(x + 10, lane.top, 200, lane.height), Qt::AlignVCenter | Qt::AlignLeft,
                 tr("full at %1")
                     .arg(spoken(document_.shot(), find_setting(document_.shot(), lane.path + ".fill_at"))));
    }
  }
  p.restore();
}

void TimeStrip::paint_track(QPainter& p, const Lane& lane) {
  const Theme& t = theme();
  const TrackView view(document_.shot(), document_.clock(), lane.path);
  const TimeScale time = scale();
  // Its name, what it says at the playhead, and a triangle that opens it.
  paint_label(p, lane, QString::fromStdString(lane.name));
  const Setting now = find_setting(document_.shot_now(), lane.path);
  const QString says = spoken(document_.shot(), now);
  p.setPen(t.time);
  const QRectF beside(44, lane.top + (lane.tall ? lane_height : 0), left_width - 60, lane_height);
  const double name_width = p.fontMetrics().horizontalAdvance(QString::fromStdString(lane.name));
  if (lane.tall || name_width + p.fontMetrics().horizontalAdvance(says) + 24 < left_width - 60)
    p.drawText(beside, Qt::AlignVCenter | (lane.tall ? Qt::AlignLeft : Qt::AlignRight), says);
  QPainterPath triangle;
  const double y = lane.top + lane_height / 2.0;
  if (lane.tall)
    triangle.moveTo(20, y - 3), triangle.lineTo(30, y - 3), triangle.lineTo(25, y + 4);
  else
    triangle.moveTo(22, y - 5), triangle.lineTo(29, y), triangle.lineTo(22, y + 5);
  triangle.closeSubpath();
  p.fillPath(triangle, t.quiet);
  p.save();
  p.setClipRect(QRectF(left_width, lane.top, width() - left_width, lane.height));
  const int parts = view.parts();
  for (int part = 0; part < std::max(1, parts); ++part) {
    const QColor color = parts == 3 ? part_colors[part] : t.time;
    QPolygonF line;
    if (parts == 0) {
      line << QPointF(left_width, lane.top + lane.height / 2.0)
           << QPointF(width(), lane.top + lane.height / 2.0);
    } else {
      for (double x = left_width; x <= width(); x += 2)
        line << QPointF(x, view.y_of(lane, view.value(time.frame_at(x), part)));
    }
    p.setPen(QPen(color, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(line);
    const auto& keys = view.track().keys;
    for (size_t i = 0; i < keys.size(); ++i) {
      const QPointF at = view.key_place(lane, time, keys[i], part);
      if (lane.tall && parts == 1 && keys[i].ease == Ease::own && i + 1 < keys.size()) {
        const QPointF next = view.key_place(lane, time, keys[i + 1], part);
        const Handles& h = keys[i].handles;
        const QPointF out(at.x() + (next.x() - at.x()) * h.out_time,
                          at.y() + (next.y() - at.y()) * h.out_way),
            in(at.x() + (next.x() - at.x()) * h.in_time, at.y() + (next.y() - at.y()) * h.in_way);
        p.setPen(QPen(t.quiet, 1));
        p.drawLine(at, out), p.drawLine(next, in);
        p.setBrush(t.panel);
        p.drawEllipse(out, 3.5, 3.5), p.drawEllipse(in, 3.5, 3.5);
      }
      const bool chosen = selected_.contains({lane.path, keys[i].time});
      p.setPen(QPen(chosen ? t.text : color, chosen ? 2 : 1));
      p.setBrush(chosen ? t.panel : color);
      p.drawEllipse(at, 4.5, 4.5);
      if (parts == 0) {
        p.setPen(t.text);
        p.drawText(QRectF(at.x() + 8, lane.top, 160, lane.height), Qt::AlignVCenter | Qt::AlignLeft,
                   QString::fromStdString(to_words(view.setting(), keys[i].value, 3)));
      }
    }
  }
  p.restore();
}

void TimeStrip::paint_playhead(QPainter& p) {
  const double x = x_of(document_.frame());
  if (x < left_width) return;
  p.setPen(QPen(theme().time, 2));
  p.drawLine(QPointF(x, 22), QPointF(x, height()));
  p.setPen(Qt::NoPen);
  p.setBrush(theme().time);
  QPainterPath drop;  // a drop, point down
  drop.addEllipse(QPointF(x, 20), 7, 7);
  drop.moveTo(x - 6, 23), drop.lineTo(x + 6, 23), drop.lineTo(x, 33), drop.closeSubpath();
  drop.setFillRule(Qt::WindingFill);
  p.drawPath(drop);
}
