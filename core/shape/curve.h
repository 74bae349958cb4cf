// A smooth curve through points.
#pragma once
#include <vector>

#include "shape/mesh.h"

namespace pour {

/// A centripetal Catmull-Rom spline (Yuksel, Schaefer & Keyser 2011): it has no loops or cusps between its
/// points. Measured along its length, from 0 to 1.
class Curve {
 public:
  /// At least two points, m; those that fall together count once. With sizes there is one for each; from one
  /// point to the next they change evenly at first and at last.
  Curve(const std::vector<Vec3d>& points, bool closed, const std::vector<double>& sizes = {});
  double length() const { return lengths_.back(); }  // m
  bool closed() const { return closed_; }
  /// Beyond the ends of an open curve it stays there; a closed one goes round.
  Vec3d at(double share) const;
  Vec3d tangent(double share) const;  // of length 1
  double size(double share) const;    // 1 without sizes
  /// As a polyline; of a closed curve the last point is the first one again.
  const std::vector<Vec3d>& line() const { return line_; }
  /// Of each point of the line.
  const std::vector<double>& sizes() const { return sizes_; }

 private:
  std::pair<size_t, double> find(double share) const;
  bool closed_;
  std::vector<Vec3d> line_;
  std::vector<double> sizes_;
  std::vector<double> lengths_;  // up to each point of the line
};

/// A tube with round ends about a curve, of this radius times the curve's size. Its volume is matched to the
/// ideal one of a straight tube.
Mesh tube_mesh(const Curve&, double radius);

}  // namespace pour
