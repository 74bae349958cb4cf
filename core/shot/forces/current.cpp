#include "shot/forces/current.h"

namespace pour {
namespace {

struct Nearest {
  v8 squared = splat(1e30f), share{}, size = splat(1);
  Vec3<v8> off{}, way{};  // from the curve to the place; along the curve
};

/// The centre of eight places, and the radius around it that holds them.
std::pair<Vec3f, float> ball_of(const Vec3<v8>& at) {
  Vec3f low, high;
  for (int a = 0; a < 3; ++a) {
    low[a] = high[a] = at[a][0];
    for (int i = 1; i < 8; ++i) low[a] = std::min(low[a], at[a][i]), high[a] = std::max(high[a], at[a][i]);
  }
  return {(low + high) * 0.5f, length(high - low) / 2};
}

Vec3<v8> eight_times(const Vec3f& v) { return {splat(v.x), splat(v.y), splat(v.z)}; }
v8 along_bit(float a, float b, v8 t) { return a + (b - a) * t; }

/// A rotation about an axis.
Rotation about(const Vec3d& axis, double angle) {
  const double c = std::cos(angle), s = std::sin(angle);
  Rotation out;
  for (int i = 0; i < 3; ++i) {
    Vec3d unit{};
    unit[i] = 1;
    const Vec3d column = unit * c + cross(axis, unit) * s + axis * (dot(axis, unit) * (1 - c));
    for (int a = 0; a < 3; ++a) out.row[a][i] = column[a];
  }
  return out;
}

}  // namespace

std::vector<Rotation> Current::turns() const {
  const Vec3d axis = normalized(direction);
  std::vector<Rotation> out;
  for (int k = 0; k < copies; ++k) out.push_back(about(axis, 2 * std::numbers::pi * k / copies));
  return out;
}

CurrentField::CurrentField(const Current& c, double time)
    : current(c), eddies(float(time * c.noise_rate * 2 * std::numbers::pi), c.noise_size) {
  const Curve curve = c.curve();
  const std::vector<Vec3d>& line = curve.line();
  const size_t last = line.size() - 1;
  const auto way = [&](size_t i) {
    const bool wraps = curve.closed();
    const Vec3d &before = i       ? line[i - 1]
                          : wraps ? line[last - 1]
                                  : line[0],
                &after = i < last ? line[i + 1]
                         : wraps  ? line[1]
                                  : line[last];
    return to<float>(normalized(after - before));
  };
  double passed = 0, widest = 0;
  for (size_t i = 0; i < last; ++i) {
    const double next = passed + length(line[i + 1] - line[i]), all = std::max(curve.length(), 1e-12);
    bits.push_back({to<float>(line[i]), to<float>(line[i + 1]), way(i), way(i + 1), float(passed / all),
                    float(next / all), float(curve.sizes()[i]), float(curve.sizes()[i + 1])});
    passed = next;
    widest = std::max({widest, curve.sizes()[i], curve.sizes()[i + 1]});
  }
  for (const Vec3d& p : line) box.add(p);
  box.grow(widest * c.radius);
  turns = c.turns();
}

std::shared_ptr<const Field> CurrentField::within(const Box& near, double places) const {
  if (turns.size() > 1) return nullptr;
  auto out = std::make_shared<CurrentField>(*this);
  const Vec3f middle = to<float>(near.center());
  const float around = float(length(near.size()) / 2);
  std::erase_if(out->bits, [&](const Bit& b) {
    const float reach =
        float(current.radius) * std::max(b.size_from, b.size_to) + around + length(b.to - b.from) / 2;
    return length(middle - (b.from + b.to) * 0.5f) > reach;
  });
  if (current.noise > 0 && !out->bits.empty()) out->eddies.sample(near, places);
  return out;
}

void CurrentField::add(const EightPlaces& p, v8 share, Push& push) const {
  for (size_t k = 0; k < turns.size(); ++k) {
    if (k == 0) {
      add_copy(p, turns[0], share, push);
      continue;
    }
    EightPlaces own = p;
    own.at = turned_back(turns[k], p.at - splat(current.position)) + splat(current.position);
    add_copy(own, turns[k], share, push);
  }
}

void CurrentField::add_copy(const EightPlaces& p, const Rotation& turn, v8 share, Push& push) const {
  const auto [middle, around] = ball_of(p.at);
  for (int a = 0; a < 3; ++a)
    if (double(middle[a] + around) < box.low[a] || double(middle[a] - around) > box.high[a]) return;
  if (bits.empty()) return;
  Nearest near;
  for (const Bit& b : bits) {
    const Vec3f along = b.to - b.from;
    const float reach = float(current.radius) * std::max(b.size_from, b.size_to) + around + length(along) / 2;
    const Vec3f to_middle = middle - (b.from + b.to) * 0.5f;
    if (dot(to_middle, to_middle) > reach * reach) continue;
    const Vec3<v8> from = p.at - eight_times(b.from), way = eight_times(along);
    const v8 t = vmin(vmax(dot(from, way) / std::max(dot(along, along), 1e-20f), splat(0)), splat(1));
    const Vec3<v8> off = from - way * t;
    const v8 squared = dot(off, off);
    const v8i nearer = squared < near.squared;
    near.squared = choose(nearer, squared, near.squared);
    near.share = choose(nearer, along_bit(b.share_from, b.share_to, t), near.share);
    near.size = choose(nearer, along_bit(b.size_from, b.size_to, t), near.size);
    for (int a = 0; a < 3; ++a) {
      near.off[a] = choose(nearer, off[a], near.off[a]);
      near.way[a] = choose(nearer, along_bit(b.way_from[a], b.way_to[a], t), near.way[a]);
    }
  }
  const v8 radius = near.size * float(current.radius);
  v8 fade = vmax(1.f - near.squared / (radius * radius), splat(0));
  fade *= fade;
  const v8 distance = vsqrt(near.squared);
  // The draw fades close to the curve, where its direction would jump.
  const v8 drawn = float(current.draw) / vmax(distance, radius * 0.25f);
  const v8 speed =
      float(current.speed) * along_bit(1, current.closed ? 1 : float(current.end_speed), near.share);
  Vec3<v8> u = near.way * speed - near.off * drawn;
  if (current.noise > 0) u += eddies(p.at) * splat(float(current.noise * current.speed));
  lead(push, turned(turn, u), fade * share * rate_of(current.response));
}

}  // namespace pour
