// A word as solid letters: shaping, outlines, and a closed bevelled mesh for each connected part.
#pragma once
#include <string>
#include <vector>

#include "shape/mesh.h"

namespace pour {

struct LetteringStyle {
  std::string font;          // full name
  double letter_size = 0.1;  // height of a capital, m
  double depth = 0.04;       // front to back, m
  double bevel = 0;          // rounding of the edges, m; at most 0.48 depth
  double spacing = 0;        // extra advance between glyphs, m
};

/// Closed polygons in metres about the middle of the word; solid on the left of each edge: outer rings
/// counter-clockwise, holes clockwise. They do not cross.
struct Outline {
  struct Ring {
    std::vector<Vec3d> points;  // z = 0
  };
  struct Part {  // one connected piece: the dot of an i is a part of its own
    Ring outer;
    std::vector<Ring> holes;
    double area() const;  // m²
  };
  std::vector<Part> parts;  // from left to right
};

/// Shapes the text (bidirectional, contextual, ligatures, marks) and returns its outline with
/// overlapping strokes united. Throws Fault (Blame::shot): empty text, no such font, a character the
/// font lacks (with a font that has it).
Outline outline_text(const std::string& utf8, const LetteringStyle&);

/// The name of a font that has every character of the text, or "". Throws Fault where it is no UTF-8.
std::string font_for(const std::string& utf8);

/// One closed, outward oriented mesh for each part, centred on z = 0.
std::vector<Mesh> extrude(const Outline&, double depth, double bevel);

}  // namespace pour
