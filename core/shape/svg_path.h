// Path data and transforms of SVG.
#pragma once
#include <string_view>
#include <vector>

#include "base/vec.h"

namespace pour {

/// x' = a x + c y + e, y' = b x + d y + f.
struct Affine {
  double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;
  Vec3d operator*(const Vec3d& p) const { return {a * p.x + c * p.y + e, b * p.x + d * p.y + f, 0}; }
  /// This transform applied after another one.
  Affine operator*(const Affine& o) const {
    return {a * o.a + c * o.b, b * o.a + d * o.b,     a * o.c + c * o.d,
            b * o.c + d * o.d, a * o.e + c * o.f + e, b * o.e + d * o.f + f};
  }
  /// The transform back; zero where there is none.
  Affine inverse() const {
    const double det = a * d - b * c;
    if (det == 0) return {0, 0, 0, 0, 0, 0};
    return {d / det, -b / det, -c / det, a / det, (c * f - d * e) / det, (b * e - a * f) / det};
  }
  /// Mean scale.
  double scale() const { return std::sqrt(std::abs(a * d - b * c)); }
};

/// A list of matrix, translate, scale, rotate, skewX, skewY. Stops at the first invalid entry.
Affine parse_transform(std::string_view);

struct Polyline {
  std::vector<Vec3d> points;
  bool closed = false;
};

/// Curves are flattened within `tolerance`. As the standard requires, an error ends the path and everything
/// before it is drawn.
std::vector<Polyline> parse_path(std::string_view data, double tolerance);

/// Numbers separated by commas or spaces, up to the first invalid one.
std::vector<double> parse_numbers(std::string_view);

}  // namespace pour
