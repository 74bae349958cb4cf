// An SVG file as filled shapes: what of a drawing can be given depth.
#pragma once
#include <string>
#include <vector>

#include "base/vec.h"
#include "shape/colors.h"
#include "shape/extrude.h"
#include "shape/svg_path.h"

namespace pour {

/// One shape as it is painted, without curves.
struct PaintedShape {
  std::vector<std::vector<Vec3d>>
      rings;    // z = 0; inside by the even-odd rule; y downwards, in units of the file
  Vec3f color;  // linear
};

struct SvgDrawing {
  std::vector<PaintedShape> shapes;   // later ones over earlier ones
  std::vector<std::string> left_out;  // kinds of elements that were not taken, for example “text”
};

/// Reads paths, basic shapes, groups, `use`, symbols and nested drawings, transforms, both fill rules,
/// strokes as their outlines (width, caps, joins, miter limit, dashes), fills and strokes by attributes,
/// `style` and CSS rules for elements, classes and ids; of a gradient the mean colour. Text, images, masks,
/// clips, filters and patterns are left out. Nothing is run, fetched or expanded. Source: SVG 1.1 (W3C 2011)
/// and SVG 2 for what it changed. Throws Fault (Blame::shot) naming `where`: no XML, no SVG, nothing that is
/// filled, far too much.
SvgDrawing read_svg(const std::string& text, const std::string& where);

/// The lines of its paths and basic shapes where they stand in the drawing, painted or not. Throws the same,
/// but for what is not filled.
std::vector<Polyline> svg_lines(const std::string& text, const std::string& where);

/// All that is painted as one shape with its parts, scaled to this height in metres, y upwards, about its
/// middle. Throws Fault (Blame::shot) where nothing is left.
Outline outline_of(const SvgDrawing&, double height, const std::string& where);

/// The colours of a drawing on a grid over the same shape.
struct ColorMap : BodyColors {
  int width = 0, height = 0;
  Vec3d low, size;            // m, of the shape that outline_of() gives
  std::vector<Vec3f> colors;  // rows from below; beside the shape, that of what is next to it
  Vec3f at(double x, double y) const;
  Vec3f at(const Vec3d& p) const override { return at(p.x, p.y); }
};
ColorMap colors_of(const SvgDrawing&, double height);

}  // namespace pour
