// SVG drawings as filled shapes for extrusion.
#pragma once
#include <memory>
#include <string>
#include <vector>

#include "base/vec.h"
#include "shape/colors.h"
#include "shape/extrude.h"
#include "shape/svg_gradient.h"
#include "shape/svg_path.h"

namespace pour {

/// A painted shape, with curves flattened.
struct PaintedShape {
  std::vector<std::vector<Vec3d>>
      rings;    // z = 0; inside by the even-odd rule; y downwards, in units of the file
  Vec3f color;  // linear; of a gradient its mean
  std::shared_ptr<const SvgGradient> gradient;  // null: one colour
  Affine to_gradient;                           // from the drawing to its coordinates
  Vec3f color_at(const Vec3d& p) const { return gradient ? gradient->at(to_gradient * p) : color; }
};

struct SvgDrawing {
  std::vector<PaintedShape> shapes;   // later ones over earlier ones
  std::vector<std::string> left_out;  // kinds of elements that were skipped, for example “text”
};

/// Reads paths, basic shapes, groups, `use`, symbols and nested drawings, transforms, both fill rules,
/// strokes as their outlines (width, caps, joins, miter limit, dashes), fills and strokes by attributes,
/// `style` and CSS rules for elements, classes and ids, linear and radial gradients. Text, images, masks,
/// clips, filters and patterns are left out. Nothing is run, fetched or expanded. Source: SVG 1.1 (W3C 2011),
/// with the changes of SVG 2. Throws Fault (Blame::shot) naming `where`: not XML, not SVG, nothing filled, or
/// too large.
SvgDrawing read_svg(const std::string& text, const std::string& where);

/// The lines of paths and basic shapes in drawing coordinates, painted or not. Throws as read_svg(), except
/// for missing fills.
std::vector<Polyline> svg_lines(const std::string& text, const std::string& where);

/// The union of all painted shapes, scaled to this height in metres, y upwards, centred. Throws Fault
/// (Blame::shot) if it is empty.
Outline outline_of(const SvgDrawing&, double height, const std::string& where);

/// The colours of a drawing on a grid over the same shape.
struct ColorMap : BodyColors {
  int width = 0, height = 0;
  Vec3d low, size;            // m, of the shape from outline_of()
  std::vector<Vec3f> colors;  // rows from below; extended beyond the shape
  Vec3f at(double x, double y) const;
  Vec3f at(const Vec3d& p) const override { return at(p.x, p.y); }
};
ColorMap colors_of(const SvgDrawing&, double height);

}  // namespace pour
