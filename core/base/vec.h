// Small vectors and boxes. Plain aggregates: x right, y up, z towards the viewer, right-handed.
#pragma once
#include <algorithm>
#include <cmath>
#include <cstdint>

namespace pour {

template <class T>
struct Vec3 {
  T x{}, y{}, z{};
  // Not (&x)[i], which is undefined behaviour that compilers exploit.
  T& operator[](int i) { return i == 0 ? x : i == 1 ? y : z; }
  const T& operator[](int i) const { return i == 0 ? x : i == 1 ? y : z; }
  Vec3 operator+(const Vec3& o) const { return {x + o.x, y + o.y, z + o.z}; }
  Vec3 operator-(const Vec3& o) const { return {x - o.x, y - o.y, z - o.z}; }
  Vec3 operator*(const Vec3& o) const { return {x * o.x, y * o.y, z * o.z}; }
  Vec3 operator*(T s) const { return {x * s, y * s, z * s}; }
  Vec3 operator/(T s) const { return {x / s, y / s, z / s}; }
  Vec3 operator-() const { return {-x, -y, -z}; }
  Vec3& operator+=(const Vec3& o) { return *this = *this + o; }
  bool operator==(const Vec3&) const = default;
};
using Vec3d = Vec3<double>;
using Vec3f = Vec3<float>;
using Vec3i = Vec3<int>;

template <class T>
T dot(const Vec3<T>& a, const Vec3<T>& b) {
  return a.x * b.x + a.y * b.y + a.z * b.z;
}
template <class T>
Vec3<T> cross(const Vec3<T>& a, const Vec3<T>& b) {
  return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
template <class T>
T length(const Vec3<T>& a) {
  return std::sqrt(dot(a, a));
}
template <class T>
Vec3<T> normalized(const Vec3<T>& a) {
  const T l = length(a);
  return l > T(0) ? a / l : a;
}
template <class T>
Vec3<T> min(const Vec3<T>& a, const Vec3<T>& b) {
  return {std::min(a.x, b.x), std::min(a.y, b.y), std::min(a.z, b.z)};
}
template <class T>
Vec3<T> max(const Vec3<T>& a, const Vec3<T>& b) {
  return {std::max(a.x, b.x), std::max(a.y, b.y), std::max(a.z, b.z)};
}
template <class To, class T>
Vec3<To> to(const Vec3<T>& a) {
  return {To(a.x), To(a.y), To(a.z)};
}

/// An axis-aligned box in metres; empty until a point is added.
struct Box {
  Vec3d low{1e300, 1e300, 1e300}, high{-1e300, -1e300, -1e300};
  bool empty() const { return low.x > high.x; }
  Vec3d size() const { return empty() ? Vec3d{} : high - low; }
  Vec3d center() const { return (low + high) * 0.5; }
  void add(const Vec3d& p) { low = min(low, p), high = max(high, p); }
  void add(const Box& b) {
    if (!b.empty()) add(b.low), add(b.high);
  }
  void grow(double d) { low = low - Vec3d{d, d, d}, high = high + Vec3d{d, d, d}; }
  bool overlaps(const Box& b) const {
    for (int i = 0; i < 3; ++i)
      if (b.low[i] > high[i] || b.high[i] < low[i]) return false;
    return true;
  }
};

/// A rotation as three rows; applied as rows · v.
struct Rotation {
  Vec3d row[3] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
  Vec3d operator*(const Vec3d& v) const { return {dot(row[0], v), dot(row[1], v), dot(row[2], v)}; }
  Vec3d inverse(const Vec3d& v) const { return row[0] * v.x + row[1] * v.y + row[2] * v.z; }
  Rotation inverse() const {
    return {{{row[0].x, row[1].x, row[2].x}, {row[0].y, row[1].y, row[2].y}, {row[0].z, row[1].z, row[2].z}}};
  }
  Rotation operator*(const Rotation& o) const {
    Rotation out;
    for (int a = 0; a < 3; ++a) out.row[a] = o.inverse(row[a]);
    return out;
  }
  bool operator==(const Rotation& o) const {
    return row[0] == o.row[0] && row[1] == o.row[1] && row[2] == o.row[2];
  }
  /// Turns about x, then y, then z; angles in radians.
  static Rotation euler(const Vec3d& a) {
    const double cx = std::cos(a.x), sx = std::sin(a.x), cy = std::cos(a.y), sy = std::sin(a.y),
                 cz = std::cos(a.z), sz = std::sin(a.z);
    return {{{cz * cy, cz * sy * sx - sz * cx, cz * sy * cx + sz * sx},
             {sz * cy, sz * sy * sx + cz * cx, sz * sy * cx - cz * sx},
             {-sy, cy * sx, cy * cx}}};
  }
};

/// From a piece's frame of reference to the set: rotated, scaled, then translated.
struct Pose {
  Rotation turn;
  Vec3d position;
  double scale = 1;
  Vec3d operator*(const Vec3d& p) const { return turn * p * scale + position; }
  Vec3d inverse(const Vec3d& p) const { return turn.inverse(p - position) / scale; }
  /// The pose of something whose pose relative to this one is `inner`.
  Pose operator*(const Pose& child) const {
    return {turn * child.turn, *this * child.position, scale * child.scale};
  }
  bool operator==(const Pose&) const = default;
  Pose inverse() const {
    const Rotation back = turn.inverse();
    return {back, back * position * (-1 / scale), 1 / scale};
  }
};

}  // namespace pour
