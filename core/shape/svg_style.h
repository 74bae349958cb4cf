// How an element of an SVG is painted: attributes, style and CSS rules, with inheritance.
#pragma once
#include <map>
#include <memory>
#include <optional>
#include <pugixml.hpp>
#include <string>
#include <vector>

#include "base/vec.h"
#include "shape/svg_gradient.h"

namespace pour {

enum class LineCap { butt, round, square };
enum class LineJoin { miter, round, bevel };

/// A colour, or a gradient.
struct SvgPaint {
  Vec3f color{0, 0, 0};  // linear; of a gradient its mean
  std::shared_ptr<const SvgGradient> gradient;
};

struct SvgStyle {
  std::optional<SvgPaint> fill = SvgPaint{}, stroke;
  Vec3f color{0, 0, 0};  // of “currentColor”
  bool even_odd = false, shown = true;
  double opacity = 1, fill_opacity = 1, stroke_opacity = 1;
  double stroke_width = 1, miter_limit = 4, dash_offset = 0;
  LineCap cap = LineCap::butt;
  LineJoin join = LineJoin::miter;
  std::vector<double> dashes;
};

/// CSS rules of a document, and its gradients.
class SvgStyles {
 public:
  /// Percentages of gradients refer to a drawing of this size.
  SvgStyles(const pugi::xml_document&, double wide, double high);
  /// The style of an element inside one with the style `outer`. Percentages refer to `size`.
  SvgStyle of(const pugi::xml_node&, const SvgStyle& outer, double size) const;

 private:
  struct Rule {
    std::string element, id;  // empty: any
    std::vector<std::string> classes;
    std::vector<std::pair<std::string, std::string>> says;
    int weight = 0;
  };
  void read_rules(std::string css);
  void set(SvgStyle&, const std::string& key, const std::string& value, const SvgStyle& outer,
           double size) const;
  std::optional<SvgPaint> paint(const std::string& value, const Vec3f& current) const;

  std::vector<Rule> rules_;  // in ascending specificity
  std::map<std::string, SvgPaint> gradients_;
};

/// A stop of a gradient.
struct SvgStop {
  double offset = 0;
  Vec3f color;  // linear
  double opacity = 1;
};
SvgStop svg_stop(const pugi::xml_node&);

/// A length in user units (px): “12”, “3mm”, “50%” of `whole`. `otherwise` if invalid.
double svg_length(const char* text, double whole, double otherwise);
/// “#f80”, “rgb(255, 128, 0)”, “orange”; nothing if invalid. Linear.
std::optional<Vec3f> svg_color(const std::string& text);

}  // namespace pour
