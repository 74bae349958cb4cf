#include "shape/svg_gradient.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "base/srgb.h"
#include "shape/svg_style.h"

namespace pour {
namespace {

/// An element and those that it refers to, nearest first.
std::vector<pugi::xml_node> referred(const pugi::xml_node& first,
                                     const std::function<pugi::xml_node(const std::string&)>& other) {
  std::vector<pugi::xml_node> out{first};
  for (int round = 0; round < 8; ++round) {
    const pugi::xml_node& last = out.back();
    const char* href =
        last.attribute("href") ? last.attribute("href").value() : last.attribute("xlink:href").value();
    const pugi::xml_node next = *href == '#' ? other(href + 1) : pugi::xml_node();
    if (!next || std::find(out.begin(), out.end(), next) != out.end()) break;
    out.push_back(next);
  }
  return out;
}

}  // namespace

SvgGradient::SvgGradient(const pugi::xml_node& node,
                         const std::function<pugi::xml_node(const std::string&)>& other, double wide,
                         double high) {
  const std::vector<pugi::xml_node> nodes = referred(node, other);
  const auto text = [&](const char* key) {
    for (const pugi::xml_node& n : nodes)
      if (const auto a = n.attribute(key)) return a.value();
    return "";
  };
  radial_ = std::strcmp(node.name(), "radialGradient") == 0;
  in_user_space_ = std::strcmp(text("gradientUnits"), "userSpaceOnUse") == 0;
  turned_ = parse_transform(text("gradientTransform"));
  spread_ = std::strcmp(text("spreadMethod"), "reflect") == 0  ? Spread::reflect
            : std::strcmp(text("spreadMethod"), "repeat") == 0 ? Spread::repeat
                                                               : Spread::pad;
  const auto number = [&](const char* key, double whole, double share) {
    whole = in_user_space_ ? whole : 1;
    return svg_length(text(key), whole, share * whole);
  };
  if (radial_) {
    to_ = {number("cx", wide, 0.5), number("cy", high, 0.5), 0};
    radius_ = number("r", std::hypot(wide, high) / std::sqrt(2.0), 0.5);
    from_ = {*text("fx") ? number("fx", wide, 0) : to_.x, *text("fy") ? number("fy", high, 0) : to_.y, 0};
    // A focus outside is moved onto the circle.
    if (const double off = length(from_ - to_); off > 0.99 * radius_ && off > 0)
      from_ = to_ + (from_ - to_) * (0.99 * radius_ / off);
  } else {
    from_ = {number("x1", wide, 0), number("y1", high, 0), 0};
    to_ = {number("x2", wide, 1), number("y2", high, 0), 0};
  }
  for (const pugi::xml_node& n : nodes) {
    if (!n.child("stop")) continue;
    for (const pugi::xml_node& stop : n.children("stop")) {
      const SvgStop read = svg_stop(stop);
      Stop s{std::clamp(read.offset, 0.0, 1.0), {}, read.opacity};
      for (int a = 0; a < 3; ++a) s.srgb[a] = to_srgb(double(read.color[a]));
      if (!stops_.empty()) s.offset = std::max(s.offset, stops_.back().offset);
      stops_.push_back(s);
    }
    break;
  }
}

Vec3f SvgGradient::mean() const {
  Vec3d sum;
  double weights = 0;
  for (const Stop& s : stops_) {
    for (int a = 0; a < 3; ++a) sum[a] += s.opacity * from_srgb(s.srgb[a]);
    weights += s.opacity;
  }
  return weights > 0 ? to<float>(sum / weights) : Vec3f{};
}

Affine SvgGradient::placed(const Box& shape) const {
  if (in_user_space_) return turned_;
  const Vec3d size = shape.size();
  return Affine{size.x, 0, 0, size.y, shape.low.x, shape.low.y} * turned_;
}

double SvgGradient::along(const Vec3d& p) const {
  if (!radial_) {
    const Vec3d way = to_ - from_;
    const double all = dot(way, way);
    return all > 0 ? dot(p - from_, way) / all : 1;
  }
  // The circle around a point between focus and centre that goes through p.
  if (radius_ <= 0) return 1;
  const Vec3d d = p - from_, c = to_ - from_;
  const double a = radius_ * radius_ - dot(c, c), b = dot(d, c), e = dot(d, d);
  return (std::sqrt(std::max(0.0, b * b + a * e)) - b) / a;
}

Vec3f SvgGradient::at(const Vec3d& p) const {
  double t = along(p);
  if (!std::isfinite(t)) t = 0;
  if (spread_ == Spread::repeat) t -= std::floor(t);
  if (spread_ == Spread::reflect) t = 1 - std::abs(1 - (t - 2 * std::floor(t / 2)));
  const auto next = std::find_if(stops_.begin(), stops_.end(), [&](const Stop& s) { return s.offset > t; });
  const Stop &high = next == stops_.end() ? stops_.back() : *next,
             &low = next == stops_.begin() ? *next : *(next - 1);
  const double span = high.offset - low.offset, share = span > 0 ? (t - low.offset) / span : 0;
  Vec3f out;
  for (int a = 0; a < 3; ++a)
    out[a] = float(from_srgb(low.srgb[a] + (high.srgb[a] - low.srgb[a]) * std::clamp(share, 0.0, 1.0)));
  return out;
}

}  // namespace pour
