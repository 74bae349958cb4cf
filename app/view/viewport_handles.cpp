// Handles of items on the stage: squares, and arrows along which liquid will fly.
#include <cmath>
#include <QPainter>

#include "picture/camera.h"
#include "view/viewport.h"

using namespace pour;

namespace {
const QColor held_color(0xD9, 0x66, 0x3B);
}

std::optional<Handle> Viewport::handle_at(const QPointF& p) const {
  for (Handle& h : handles_of(document_)) {
    const QPointF d = to_screen(h.at) - p;
    if (std::hypot(d.x(), d.y()) < h.reach) return std::move(h);
  }
  return {};
}

void Viewport::drag_handle(const QPointF& to, const QPointF& by, bool onto) {
  for (const Handle& h : handles_of(document_)) {
    if (h.id != held_handle_) continue;
    const View view(camera_for(size()), double(width()) / std::max(1, height()));
    const double scale = 2 * view.half_width * dot(pour::to<float>(h.at) - view.eye, view.forward) / width();
    Handle::Drag drag{
        h.at + pour::to<double>(view.right) * (by.x() * scale) - pour::to<double>(view.up) * (by.y() * scale),
        {}};
    if (const auto seen = onto ? what_is_at(to) : std::nullopt) drag.onto = seen->at;
    document_.edit(
        h.edit, [&](Shot& s) { h.set(s, drag); }, QString("handle %1").arg(drags_));
    return;
  }
}

void Viewport::paint_handles(QPainter& p) {
  for (const Handle& h : handles_of(document_)) {
    const QColor color = h.id == held_handle_ ? held_color : h.color;
    if (!h.arc.at.empty()) {
      paint_arc(p, h, color);
      continue;
    }
    p.setPen(QPen(QColor(0x23, 0x30, 0x2f), 1));
    p.setBrush(color);
    p.drawRect(QRectF(to_screen(h.at) - QPointF(h.size, h.size) / 2, QSizeF(h.size, h.size)));
  }
}

/// Where liquid will fly, with a dot each frame, and an arrow from its source to the handle.
void Viewport::paint_arc(QPainter& p, const Handle& h, const QColor& of_tip) {
  QPolygonF line;
  for (const Vec3d& q : h.arc.at) line << to_screen(q);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(h.color, 1.3));
  p.drawPolyline(line);
  p.setBrush(h.color);
  for (qsizetype k = 0; k < line.size(); k += arc_steps) p.drawEllipse(line[k], 2.2, 2.2);
  const QPointF from = line.front(), to = to_screen(h.at), along = to - from;
  p.setPen(QPen(h.color, 2.4));
  p.drawLine(from, to);
  const double length = std::hypot(along.x(), along.y());
  if (length <= 1) return;
  const QPointF a = along / length * 11, b(-a.y() * 0.5, a.x() * 0.5);
  p.setPen(Qt::NoPen);
  p.setBrush(of_tip);
  p.drawPolygon(QPolygonF{to + a, to + b, to - b});
}
