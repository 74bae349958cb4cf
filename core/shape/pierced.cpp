#include "shape/pierced.h"

#include <cmath>
#include <numbers>

#include "base/error.h"
#include "base/text.h"

namespace pour {
namespace {

using Fits = std::function<bool(const Vec3d&, double)>;

constexpr int corners_of_hole = 24;
constexpr size_t most_holes = 10000;

Fault too_many_holes() {
  return shot_fault("Holes", filled("are more than {most}.", {{"most", std::to_string(most_holes)}}),
                    "Make them larger, or the gaps between them wider.");
}

/// Calls f with each place of a pattern within a box about the origin.
template <class F>
void each_place(const Piercing& p, const Vec3d& half, const F& f) {
  const double pitch = p.diameter + p.gap;
  if ((half.x + pitch) * (half.y + pitch) / (pitch * pitch) > double(most_holes))  // of four quarters
    throw too_many_holes();
  if (p.pattern == HolePattern::rings) {
    const double far = std::hypot(half.x, half.y);
    f(Vec3d{});
    for (int ring = 1; ring * pitch < far; ++ring) {
      const int many = int(2 * std::numbers::pi * ring);
      for (int k = 0; k < many; ++k) {
        const double angle = 2 * std::numbers::pi * k / many;
        f(Vec3d{std::cos(angle), std::sin(angle), 0} * (ring * pitch));
      }
    }
    return;
  }
  const bool staggered = p.pattern == HolePattern::staggered;
  const double row = staggered ? pitch * std::sqrt(0.75) : pitch;
  const int rows = int(half.y / row) + 1, columns = int(half.x / pitch) + 1;
  for (int y = -rows; y <= rows; ++y)
    for (int x = -columns; x <= columns; ++x)
      f(Vec3d{(x + (staggered && y & 1 ? 0.5 : 0)) * pitch, y * row, 0});
}

/// The middles of the holes that fit into a plate of this half size.
std::vector<Vec3d> hole_places(const Piercing& p, const Vec3d& half, const Fits& fits) {
  std::vector<Vec3d> out;
  if (p.diameter <= 0) return out;
  each_place(p, half, [&](const Vec3d& at) {
    if (fits(at, p.diameter / 2 + p.gap / 2)) out.push_back(at);
  });
  if (out.size() > most_holes) throw too_many_holes();
  return out;
}

}  // namespace

void pierce(Body& body, const Piercing& p, const Outline::Ring& outline, double thickness, const Fits& fits) {
  constexpr double bevel = 0.12;  // of the thickness or the gap: a rim that catches light
  Box box;
  for (const Vec3d& v : outline.points) box.add(v);
  const std::vector<Vec3d> places = hole_places(p, box.size() / 2, fits);
  if (places.empty()) return;
  Outline::Part plate{outline, {}};
  for (const Vec3d& at : places) {
    Outline::Ring& ring = plate.holes.emplace_back();
    // So that the polygon's area is the circle's.
    const double angle = 2 * std::numbers::pi / corners_of_hole,
                 radius = p.diameter / 2 * std::sqrt(angle / std::sin(angle));
    for (int k = 0; k < corners_of_hole; ++k)  // clockwise
      ring.points.push_back(at + Vec3d{std::cos(k * angle), -std::sin(k * angle), 0} * radius);
    const Vec3d middle{at.x, 0, -at.y}, up{0, thickness / 2, 0};
    body.openings.push_back({{middle + up, middle - up}, p.diameter / 2, p.discharge});
  }
  Mesh mesh = extrude({{plate}}, thickness, bevel * std::min(thickness, p.gap)).front();
  for (Vec3f& v : mesh.points) v = {v.x, v.z, -v.y};
  body.pierced = std::make_shared<const Mesh>(std::move(mesh));
}

}  // namespace pour
