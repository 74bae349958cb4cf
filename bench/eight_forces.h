// Eight forces, each of which reaches half of a box; two have noise.
#pragma once
#include "shot/force.h"

namespace pour {

inline std::vector<Acting> eight_forces(const Box& box) {
  std::vector<Acting> out;
  const auto add = [&](const auto& kind) {
    Reach half{.shape = Reach::Shape::box, .half = box.size() * 0.5, .edge = 0.05 * box.size().x};
    const int axis = int(out.size()) % 3;
    half.half[axis] /= 2;
    half.pose.position = box.center();
    half.pose.position[axis] += (out.size() % 2 ? 0.25 : -0.25) * box.size()[axis];
    out.push_back({.field = kind.field({}), .strength = {half, {}}, .inside = true});
  };
  const Vec3d middle = box.center();
  const double size = box.size().x;
  Current current{.radius = 0.3 * size, .noise = 0.5, .noise_size = 0.2 * size};
  current.points.list = {box.low, middle, box.high};
  add(Wind{.speed = 0.1, .gusts = 0.5, .gust_size = 0.2 * size});
  add(current);
  add(Wind{.speed = 0.1});
  add(Swirl{.spin = 1, .position = middle});
  add(Swirl{.spin = -1, .position = middle, .lift = 0.1});
  add(Pull{.strength = 0.5, .position = middle});
  add(Pull{.strength = -0.5, .to = PullTo::line, .position = middle});
  add(Drag{});
  return out;
}

}  // namespace pour
