// Handles of items on the stage, and where liquid will fly: an arrow on each pour that has a direction, and
// the path from there.
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
  p.setPen(QPen(QColor(0x23, 0x30, 0x2f), 1));
  for (const Handle& h : handles_of(document_)) {
    if (h.size <= 0) continue;
    p.setBrush(h.id == held_handle_ ? held_color : h.color);
    p.drawRect(QRectF(to_screen(h.at) - QPointF(h.size, h.size) / 2, QSizeF(h.size, h.size)));
  }
}

void Viewport::paint_aims(QPainter& p) {
  for (const Aim& aim : aims_of(document_)) {
    QPolygonF line;
    for (const Vec3d& q : aim.arc.at) line << to_screen(q);
    const QColor color(0x5A, 0xC8, 0xE8);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(color, 1.3));
    p.drawPolyline(line);
    p.setBrush(color);
    for (qsizetype k = 0; k < line.size(); k += Aim::steps) p.drawEllipse(line[k], 2.2, 2.2);
    const QPointF from = to_screen(aim.arc.at[0]), to = to_screen(aim.tip());
    p.setPen(QPen(color, 2.4));
    p.drawLine(from, to);
    const QPointF along = to - from;
    const double length = std::hypot(along.x(), along.y());
    if (length > 1) {
      const QPointF a = along / length * 11, b(-a.y() * 0.5, a.x() * 0.5);
      p.setPen(Qt::NoPen);
      p.setBrush(held_handle_ == aim.handle() ? held_color : color);
      p.drawPolygon(QPolygonF{to + a, to + b, to - b});
    }
  }
}
