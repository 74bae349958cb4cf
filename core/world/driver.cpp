#include "world/driver.h"

#include <algorithm>
#include <cmath>

namespace pour {

v8 Dependence::factor(v8 x) const {
  if (driver == Driver::none || points.empty()) return splat(1);
  v8 out = splat(float(points.front().second));
  for (size_t i = 1; i < points.size(); ++i) {
    const auto& [x0, y0] = points[i - 1];
    const auto& [x1, y1] = points[i];
    const v8 t = vmin((x - float(x0)) / float(x1 - x0), splat(1));
    out = choose(x >= splat(float(x0)), float(y0) + float(y1 - y0) * t, out);
  }
  return out;
}

double Dependence::most() const {
  if (driver == Driver::none) return 1;
  double out = 0;
  for (const auto& [x, y] : points) out = std::max(out, std::abs(y));
  return out;
}

}  // namespace pour
