#include "shape/turned_mesh.h"

#include <polyclipping/clipper.hpp>

#include <cmath>
#include <numbers>

#include "base/error.h"

namespace pour {
namespace {

constexpr int around = 96;
constexpr double on_axis = 1e-9;  // m

}  // namespace

Mesh turned_mesh(const std::vector<std::vector<Vec3d>>& outlines) {
  // So that the polygon's area is the circle's.
  const double wider = std::sqrt(2 * std::numbers::pi / (around * std::sin(2 * std::numbers::pi / around)));
  Mesh m;
  for (const auto& outline : outlines) {
    std::vector<int> first;  // the ring of each point of the outline; one point where it is on the axis
    for (const Vec3d& p : outline) {
      first.push_back(int(m.points.size()));
      if (p.x <= on_axis) {
        m.points.push_back(to<float>(Vec3d{0, p.y, 0}));
        continue;
      }
      for (int k = 0; k < around; ++k) {
        const double a = 2 * std::numbers::pi * k / around;
        m.points.push_back(to<float>(Vec3d{p.x * wider * std::cos(a), p.y, -p.x * wider * std::sin(a)}));
      }
    }
    for (size_t i = 0; i < outline.size(); ++i) {
      const size_t j = (i + 1) % outline.size();
      const bool axis_i = outline[i].x <= on_axis, axis_j = outline[j].x <= on_axis;
      for (int k = 0; k < around && !(axis_i && axis_j); ++k) {
        const int a = first[i] + (axis_i ? 0 : k), b = first[i] + (axis_i ? 0 : (k + 1) % around),
                  c = first[j] + (axis_j ? 0 : k), d = first[j] + (axis_j ? 0 : (k + 1) % around);
        if (!axis_i) m.triangles.push_back({a, b, d});
        if (!axis_j) m.triangles.push_back({a, d, c});
      }
    }
  }
  return m;
}

Mesh cylinder_mesh(double radius, double height) {
  const double h = height / 2;
  return turned_mesh({{{0, -h, 0}, {radius, -h, 0}, {radius, h, 0}, {0, h, 0}}});
}

Mesh ring_mesh(double radius, double section) {
  constexpr int n = 48;
  const double r = section * std::sqrt(2 * std::numbers::pi / (n * std::sin(2 * std::numbers::pi / n)));
  std::vector<Vec3d> circle;
  for (int k = 0; k < n; ++k) {
    const double a = 2 * std::numbers::pi * k / n;
    circle.push_back({radius + r * std::cos(a), r * std::sin(a), 0});
  }
  return turned_mesh({circle});
}

namespace {
namespace cl = ClipperLib;

double reach_of(const std::vector<Vec3d>& line) {
  double reach = 0;
  for (const Vec3d& p : line) reach = std::max({reach, std::abs(p.x), std::abs(p.y)});
  return reach;
}

/// Revolves the part of the paths to the right of the axis. `scale` is path units per metre.
Mesh turned_right_of_axis(const cl::Paths& wide, double scale, double reach) {
  cl::Clipper clip;
  clip.AddPaths(wide, cl::ptSubject, true);
  const auto far = cl::cInt(std::llround(4 * reach * scale));
  clip.AddPath({{0, -far}, {far, -far}, {far, far}, {0, far}}, cl::ptClip, true);
  cl::Paths kept;
  clip.Execute(cl::ctIntersection, kept, cl::pftNonZero, cl::pftNonZero);
  std::vector<std::vector<Vec3d>> outlines;
  for (const cl::Path& p : kept) {
    outlines.emplace_back();
    for (const cl::IntPoint& q : p) outlines.back().push_back({double(q.X) / scale, double(q.Y) / scale, 0});
  }
  if (outlines.empty())
    throw shot_fault("Profile", "leaves nothing to turn.", "Draw it to the right of the axis.");
  return turned_mesh(outlines);
}

}  // namespace

Mesh vessel_mesh(const std::vector<Vec3d>& profile, double wall) {
  const std::vector<Vec3d> line = Curve(profile, false).line();
  const double reach = std::max(wall, reach_of(line)), scale = 1e8 / reach;  // to whole numbers
  const auto cell = [&](double v) { return cl::cInt(std::llround(v * scale)); };
  cl::Path path;
  // A profile that starts at the axis goes on beyond it, so that the bottom is whole.
  if (line.front().x < wall / 2) path.push_back({cell(-wall), cell(line.front().y)});
  for (const Vec3d& p : line) path.push_back({cell(std::max(p.x, 0.0)), cell(p.y)});
  cl::ClipperOffset offset(2, wall * scale * 0.002);
  offset.AddPath(path, cl::jtRound, cl::etOpenRound);
  cl::Paths wide;
  offset.Execute(wide, wall * scale / 2);
  return turned_right_of_axis(wide, scale, reach);
}

Mesh full_mesh(const std::vector<Vec3d>& profile) {
  const std::vector<Vec3d> line = Curve(profile, false).line();
  const double reach = std::max(1e-6, reach_of(line)), scale = 1e8 / reach;
  const auto cell = [&](double v) { return cl::cInt(std::llround(v * scale)); };
  cl::Path path{{0, cell(line.front().y)}};
  for (const Vec3d& p : line) path.push_back({cell(std::max(p.x, 0.0)), cell(p.y)});
  path.push_back({0, cell(line.back().y)});
  return turned_right_of_axis({path}, scale, reach);
}

}  // namespace pour
