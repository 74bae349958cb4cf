// Forces on the stage, while their step is open: where they reach, which way they push, and where fluid would
// fly from the pointer.
#include <cmath>
#include <QPainter>

#include "base/error.h"
#include "picture/camera.h"
#include "run/forces.h"
#include "shape/pose.h"
#include "shot/items.h"
#include "view/analyst.h"
#include "view/viewport.h"

using namespace pour;

namespace {

constexpr double flown = 1, each = 1.0 / 48;  // s: how far test points fly, in which steps

/// A colour of its own for each force.
QColor color_of_force(size_t index) {
  static const QColor all[] = {{0xF2, 0xB1, 0x34}, {0x6F, 0xC3, 0xB2}, {0xE5, 0x7A, 0x5A},
                               {0xB9, 0x9A, 0xE8}, {0x9C, 0xCB, 0x5A}, {0x5A, 0xA9, 0xE6}};
  return all[index % std::size(all)];
}

/// The axis of a force that has one, as a place on it and a direction.
std::optional<std::pair<Vec3d, Vec3d>> axis_of(Force f) {
  const Vec3d *place = place_of(f), *direction = direction_of(f);
  if (!place || !direction) return {};
  return std::pair(*place, normalized(*direction));
}

/// What is shown of a shot's fluids: liquid before smoke.
std::vector<Pushed> pushed_of(const Shot& shot) {
  std::vector<Pushed> out;
  if (shot.brings(FlowKind::liquid)) out.push_back({});
  if (shot.brings(FlowKind::gas)) out.push_back({.flow = FlowKind::gas});
  return out;
}

}  // namespace

void Viewport::paint_reach(QPainter& p, const Force& f) {
  Pose pose{Rotation::euler(f.reach_turn), f.reach_position};
  const Vec3d half = f.reach_size * 0.5;
  if (f.reach == Reach::Shape::ball) {
    paint_ball(p, f.reach_position, f.reach_radius);
  } else if (f.reach == Reach::Shape::box) {
    paint_box(p, {half * -1, half}, pose);
  } else if (f.reach == Reach::Shape::slab) {
    const Vec3d size = analyst_.now().bounds.size() * 0.5;
    paint_box(p, {{-size.x, -f.reach_thickness / 2, -size.z}, {size.x, f.reach_thickness / 2, size.z}}, pose);
  }
}

/// Arrows of a force, in the plane that faces the camera.
void Viewport::paint_push(QPainter& p, const std::vector<Vec3d>& places, const std::vector<Vec3d>& pushes) {
  double most = 0;
  for (const Vec3d& v : pushes) most = std::max(most, length(v));
  if (!(most > 0)) return;
  const double longest = 0.045 * length(analyst_.now().bounds.size());
  for (size_t i = 0; i < places.size(); ++i) {
    const double share = length(pushes[i]) / most;
    if (share < 0.02) continue;
    const Vec3d end = places[i] + normalized(pushes[i]) * (longest * std::sqrt(share));
    const QPointF from = to_screen(places[i]), to = to_screen(end), along = to - from;
    p.drawLine(from, to);
    const double size = std::hypot(along.x(), along.y());
    if (size < 3) continue;
    const QPointF a = along / size * 5, b(-a.y() * 0.5, a.x() * 0.5);
    p.drawLine(to, to - a + b), p.drawLine(to, to - a - b);
  }
}

void Viewport::paint_forces(QPainter& p) try {
  if (document_.step() != 3 || document_.stage() == Stage::picture) return;
  const Shot& now = document_.shot_now();
  const ForceFields forces(document_.shot());
  const double time = document_.clock().time(document_.frame());
  const auto fluids = pushed_of(now);
  if (fluids.empty()) return;
  const Box bounds = analyst_.now().bounds;
  const Vec3d size = bounds.size();
  constexpr int across = 9, up = 6;
  std::vector<Vec3d> places;
  for (int j = 0; j < up; ++j)
    for (int i = 0; i < across; ++i)
      places.push_back(bounds.low + Vec3d{size.x * (i + 0.5) / across, size.y * (j + 0.5) / up, size.z / 2});
  std::map<std::string, std::vector<Vec3d>> pushes;
  for (const Vec3d& place : places)
    for (const ForceThere& f : forces.at(place, fluids.front(), now, time))
      pushes[f.id].push_back(f.acceleration + f.led * f.rate);
  for (size_t k = 0; k < now.forces.size(); ++k) {
    const Force& f = now.forces[k];
    const QColor color = color_of_force(k);
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(color, 1.2, Qt::DashLine));
    paint_reach(p, f);
    for (const Curve& curve : curves_of(f)) {
      QPolygonF line;
      for (const Vec3d& at : curve.line()) line << to_screen(at);
      p.drawPolyline(line);
    }
    if (const auto axis = axis_of(f)) {
      const Vec3d along = axis->second * (length(size) / 3);
      p.drawLine(to_screen(axis->first - along), to_screen(axis->first + along));
    }
    p.setPen(QPen(color, 1.2));
    // Plain gravity is the same everywhere: no arrows for it.
    if (pushes.contains(f.id) && !(f.as<Gravity>() && acts_on_all(f))) paint_push(p, places, pushes[f.id]);
  }
  if (!underMouse()) return;
  const View view(camera_for(this->size()), double(width()) / std::max(1, height()));
  const Vec3f way = view.ray(float(2 * pointer_.x() / std::max(1, width()) - 1),
                             float(1 - 2 * pointer_.y() / std::max(1, height())));
  const double far =
      double(dot(pour::to<float>(document_.shot_now().camera.target) - view.eye, view.forward)) /
      double(dot(way, view.forward));
  const Vec3d from = pour::to<double>(view.eye) + pour::to<double>(way) * far;
  for (const Pushed& fluid : fluids) {
    const bool liquid = fluid.flow == FlowKind::liquid;
    p.setPen(QPen(liquid ? QColor(0x5A, 0xC8, 0xE8) : QColor(230, 230, 224), 1.2));
    p.setBrush(p.pen().color());
    int n = 0;
    for (const Vec3d& at : forces.flight(from, {}, fluid, now, time, flown, each))
      if (n++ % 2 == 0) p.drawEllipse(to_screen(at), 2, 2);
  }
} catch (const Fault&) {  // the checks say what it is
}
