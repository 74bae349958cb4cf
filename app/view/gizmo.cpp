#include "view/gizmo.h"

#include <cmath>
#include <QPainter>

using namespace pour;

namespace {

constexpr double arm = 78, near = 9;  // pixels
constexpr double arc_at = 0.62;       // of an arrow's length, from the middle
const QColor colors[3] = {{0xE0, 0x8A, 0x5A}, {0x7F, 0xC9, 0xA4}, {0x8E, 0xB4, 0xE8}};
const QColor held_color(0xD9, 0x66, 0x3B), light(251, 250, 247);

constexpr int axis_of(Gizmo::Part p) {
  return p >= Gizmo::Part::turn_x ? int(p) - int(Gizmo::Part::turn_x) : int(p) - int(Gizmo::Part::move_x);
}
bool moves(Gizmo::Part p) { return p >= Gizmo::Part::move_x && p <= Gizmo::Part::move_z; }
bool turns(Gizmo::Part p) { return p >= Gizmo::Part::turn_x && p <= Gizmo::Part::turn_z; }

Vec3d unit(int axis) {
  Vec3d v;
  v[axis] = 1;
  return v;
}

double distance(const QPointF& a, const QPointF& b) { return std::hypot(a.x() - b.x(), a.y() - b.y()); }

/// From a point to a line between two others.
double distance(const QPointF& p, const QPointF& a, const QPointF& b) {
  const QPointF d = b - a;
  const double l2 = QPointF::dotProduct(d, d);
  const double t = l2 > 0 ? std::clamp(QPointF::dotProduct(p - a, d) / l2, 0.0, 1.0) : 0;
  return distance(p, a + d * t);
}

}  // namespace

Gizmo::Gizmo(const View& view, const QSize& size, const Vec3d& at) : view_(view), size_(size), at_(at) {
  const double depth = std::max(1e-6, double(dot(to<float>(at) - view.eye, view.forward)));
  arm_ = arm * 2 * double(view.half_width) * depth / std::max(1, size.width());
}

QPointF Gizmo::on_screen(const Vec3d& p) const {
  const Vec3f q = view_.project(to<float>(p));
  return {(double(q.x) + 1) / 2 * size_.width(), (1 - double(q.y)) / 2 * size_.height()};
}

std::vector<Vec3d> Gizmo::arc(int axis) const {
  const Vec3d a = unit((axis + 1) % 3), b = unit((axis + 2) % 3);
  std::vector<Vec3d> out;
  for (int i = 0; i <= 12; ++i) {
    const double angle = (15 + 60 * i / 12.0) * degree;
    out.push_back(at_ + (a * std::cos(angle) + b * std::sin(angle)) * (arm_ * arc_at));
  }
  return out;
}

QPointF Gizmo::handle(Part p) const {
  if (moves(p)) return on_screen(at_ + unit(axis_of(p)) * arm_);
  if (turns(p)) return on_screen(arc(axis_of(p))[6]);
  const QPointF middle = on_screen(at_);
  return p == Part::size ? middle + QPointF(-arm * 0.5, arm * 0.5) : middle;
}

Gizmo::Part Gizmo::part_at(const QPointF& p) const {
  const QPointF middle = on_screen(at_);
  if (distance(p, middle) < near) return Part::middle;
  if (distance(p, handle(Part::size)) < near) return Part::size;
  for (const Part part : {Part::move_x, Part::move_y, Part::move_z}) {
    const QPointF tip = handle(part), from = middle + (tip - middle) * 0.3;
    // Straight towards the eye it could not be dragged.
    if (distance(middle, tip) > 2 * near && distance(p, from, tip) < near) return part;
  }
  for (const Part part : {Part::turn_x, Part::turn_y, Part::turn_z}) {
    const auto points = arc(axis_of(part));
    for (size_t i = 1; i < points.size(); ++i)
      if (distance(p, on_screen(points[i - 1]), on_screen(points[i])) < near) return part;
  }
  return Part::none;
}

void Gizmo::paint(QPainter& p, Part held) const {
  const QPointF middle = on_screen(at_);
  const auto color = [&](Part part) { return held == part ? held_color : colors[axis_of(part)]; };
  p.setBrush(Qt::NoBrush);
  for (const Part part : {Part::turn_x, Part::turn_y, Part::turn_z}) {
    QPolygonF line;
    for (const Vec3d& q : arc(axis_of(part))) line << on_screen(q);
    p.setPen(QPen(color(part), 4, Qt::SolidLine, Qt::RoundCap));
    p.drawPolyline(line);
  }
  for (const Part part : {Part::move_x, Part::move_y, Part::move_z}) {
    const QPointF tip = handle(part), along = tip - middle;
    const double length = std::hypot(along.x(), along.y());
    if (length < 2 * near) continue;
    p.setPen(QPen(color(part), 2.4));
    p.drawLine(middle + along / length * 9, tip);
    const QPointF a = along / length * 12, b(-a.y() * 0.45, a.x() * 0.45);
    p.setPen(Qt::NoPen);
    p.setBrush(color(part));
    p.drawPolygon(QPolygonF{tip + a, tip + b, tip - b});
  }
  p.setPen(QPen(QColor(0x23, 0x30, 0x2f), 1));
  p.setBrush(held == Part::size ? held_color : light);
  const QPointF s = handle(Part::size);
  p.drawPolygon(QPolygonF{s + QPointF(0, 7), s + QPointF(7, 0), s - QPointF(0, 7), s - QPointF(7, 0)});
  p.setBrush(held == Part::middle ? held_color : light);
  p.drawEllipse(middle, 6.5, 6.5);
}

double Gizmo::angle_at(int axis, const QPointF& p) const {
  const Vec3d way = to<double>(view_.ray(float(2 * p.x() / std::max(1, size_.width()) - 1),
                                         float(1 - 2 * p.y() / std::max(1, size_.height()))));
  const Vec3d eye = to<double>(view_.eye);
  const double across = way[axis];
  // Where the plane is seen from its edge, the nearest that can be told apart.
  const double far = std::abs(across) > 0.02 ? (at_[axis] - eye[axis]) / across : length(at_ - eye);
  const Vec3d there = eye + way * far - at_;
  return std::atan2(there[(axis + 2) % 3], there[(axis + 1) % 3]);
}

Gizmo::Change Gizmo::drag(Part part, const QPointF& from, const QPointF& to) const {
  Change out;
  const QPointF d = to - from, middle = on_screen(at_);
  if (part == Part::middle) {
    const double scale = arm_ / arm;
    out.move = pour::to<double>(view_.right) * (d.x() * scale) - pour::to<double>(view_.up) * (d.y() * scale);
  } else if (moves(part)) {
    // As far along the arrow on the stage as the pointer goes along it.
    const QPointF along = handle(part) - middle;
    const double l2 = std::max(1.0, QPointF::dotProduct(along, along));
    out.move = unit(axis_of(part)) * (arm_ * QPointF::dotProduct(d, along) / l2);
  } else if (turns(part)) {
    out.axis = unit(axis_of(part));
    out.angle = std::remainder(angle_at(axis_of(part), to) - angle_at(axis_of(part), from), 360 * degree);
  } else if (part == Part::size) {
    out.factor = std::clamp(distance(to, middle) / std::max(1.0, distance(from, middle)), 0.01, 100.0);
  }
  return out;
}
