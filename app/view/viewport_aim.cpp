// Where liquid will fly: an arrow on each pour that has a direction, and the way from there.
#include <cmath>
#include <QPainter>

#include "picture/camera.h"
#include "run/arc.h"
#include "shot/edit.h"
#include "view/viewport.h"

using namespace pour;

namespace {

constexpr double arrow = 0.06;  // m long
constexpr int steps = 4;        // of the way, a frame

Vec3d tip_of(const Arc& arc) { return arc.at[0] + normalized(arc.velocity) * arrow; }

}  // namespace

std::vector<Viewport::Aim> Viewport::aims() const {
  std::vector<Aim> out;
  const Shot& shot = document_.shot();
  for (const Pour& p : shot.pours)
    if (shot.brings(p, FluidKind::liquid))
      if (Arc arc = arc_of(shot, p, document_.frame(), steps); arc.at.size() > 1)
        out.push_back({p.id, std::move(arc)});
  return out;
}

void Viewport::paint_aims(QPainter& p) {
  for (const Aim& aim : aims()) {
    QPolygonF line;
    for (const Vec3d& q : aim.arc.at) line << to_screen(q);
    const QColor color(0x5A, 0xC8, 0xE8);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(color, 1.3));
    p.drawPolyline(line);
    p.setBrush(color);
    for (qsizetype k = 0; k < line.size(); k += steps) p.drawEllipse(line[k], 2.2, 2.2);
    const QPointF from = to_screen(aim.arc.at[0]), to = to_screen(tip_of(aim.arc));
    p.setPen(QPen(color, 2.4));
    p.drawLine(from, to);
    const QPointF along = to - from;
    const double length = std::hypot(along.x(), along.y());
    if (length > 1) {
      const QPointF a = along / length * 11, b(-a.y() * 0.5, a.x() * 0.5);
      p.setPen(Qt::NoPen);
      p.setBrush(held_aim_ == aim.pour ? QColor(0xD9, 0x66, 0x3B) : color);
      p.drawPolygon(QPolygonF{to + a, to + b, to - b});
    }
  }
}

std::string Viewport::aim_at(const QPointF& p) const {
  if (document_.stage() != Stage::set) return {};
  for (const Aim& aim : aims()) {
    const QPointF d = to_screen(tip_of(aim.arc)) - p;
    if (std::hypot(d.x(), d.y()) < 11) return aim.pour;
  }
  return {};
}

/// Turns the held arrow so that its tip stays under the pointer, in the plane of the picture; or, where
/// `onto` says so, so that what it pours comes to what is seen there.
void Viewport::drag_aim(const QPointF& to, const QPointF& d, bool onto) {
  for (const Aim& aim : aims()) {
    if (aim.pour != held_aim_) continue;
    const QString gesture = QString("aim %1").arg(drags_);
    if (const auto there = onto ? what_is_at(to) : std::nullopt) {
      document_.edit(
          tr("Aim"), [&](Shot& s) { aim_pour(s, held_aim_, there->at, document_.frame()); }, gesture);
      return;
    }
    const View view(camera_for(size()), double(width()) / std::max(1, height()));
    const Vec3d tip = tip_of(aim.arc);
    const double scale = 2 * view.half_width * dot(pour::to<float>(tip) - view.eye, view.forward) / width();
    const Vec3d end =
        tip + pour::to<double>(view.right) * (d.x() * scale) - pour::to<double>(view.up) * (d.y() * scale);
    const Vec3d way = normalized(end - aim.arc.at[0]);
    document_.edit(
        tr("Aim"),
        [&](Shot& s) {
          Pour* pour = s.pour(held_aim_);
          pour->direction = Direction::own;
          change_value(s, "pours." + held_aim_ + ".aim", way, document_.frame());
        },
        gesture);
    return;
  }
}
