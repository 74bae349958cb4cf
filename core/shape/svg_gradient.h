// Gradients of an SVG drawing. Source: SVG 1.1 (W3C 2011), chapter 13.
#pragma once
#include <functional>
#include <pugixml.hpp>
#include <string>
#include <vector>

#include "shape/svg_path.h"

namespace pour {

class SvgGradient {
 public:
  /// Reads a linearGradient or radialGradient. `other` finds the element with an id, from which attributes
  /// and stops are taken that are missing here. Percentages in user space refer to a drawing of this size.
  SvgGradient(const pugi::xml_node&, const std::function<pugi::xml_node(const std::string& id)>& other,
              double wide, double high);
  /// Whether it has stops.
  bool any() const { return !stops_.empty(); }
  /// The mean of its stops' colours by their opacity, linear.
  Vec3f mean() const;
  /// From its coordinates to those of a shape with these bounds.
  Affine placed(const Box& shape) const;
  /// Linear colour at a point in its coordinates.
  Vec3f at(const Vec3d&) const;

 private:
  enum class Spread { pad, reflect, repeat };
  struct Stop {
    double offset = 0;
    Vec3d srgb;  // colours are mixed as they are encoded
    double opacity = 1;
  };
  double along(const Vec3d&) const;
  bool radial_ = false, in_user_space_ = false;
  Affine turned_;
  Spread spread_ = Spread::pad;
  Vec3d from_, to_;  // ends of the line; or focus and centre
  double radius_ = 0;
  std::vector<Stop> stops_;  // by rising offset
};

}  // namespace pour
