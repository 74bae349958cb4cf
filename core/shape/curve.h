// A smooth curve through points.
#pragma once
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// A centripetal Catmull-Rom spline (Yuksel, Schaefer & Keyser 2011): no loops or cusps between its points.
/// Parametrised by share of length, 0 to 1.
class Curve {
 public:
  /// At least two points, m; coincident points count once. Sizes, if given, are one a point, eased from point
  /// to point.
  Curve(const std::vector<Vec3d>& points, bool closed, const std::vector<double>& sizes = {});
  double length() const { return lengths_.back(); }  // m
  bool closed() const { return closed_; }
  /// Clamped at the ends of an open curve; wraps around a closed one.
  Vec3d at(double share) const;
  Vec3d tangent(double share) const;  // of length 1
  double size(double share) const;    // 1 without sizes
  /// As a polyline. A closed curve ends with its first point.
  const std::vector<Vec3d>& line() const { return line_; }
  /// Sizes at the points of line().
  const std::vector<double>& sizes() const { return sizes_; }

 private:
  std::pair<size_t, double> find(double share) const;
  bool closed_;
  std::vector<Vec3d> line_;
  std::vector<double> sizes_;
  std::vector<double> lengths_;  // up to each point of the polyline
};

/// A tube with round ends about a curve, of this radius times the curve's size. Its volume is matched to the
/// ideal one of a straight tube.
Mesh tube_mesh(const Curve&, double radius);

}  // namespace pour
