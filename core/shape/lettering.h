// A word as outlines of its letters: fonts, shaping, strokes united.
#pragma once
#include <string>
#include <vector>

#include "shape/extrude.h"

namespace pour {

struct LetteringStyle {
  std::string font;          // full name
  double letter_size = 0.1;  // height of a capital, m
  double depth = 0.04;       // front to back, m
  double bevel = 0;          // rounding of the edges, m; at most 0.48 depth
  double spacing = 0;        // extra advance between glyphs, m
};

/// Shapes the text (bidirectional, contextual, ligatures, marks) and returns its outline with
/// overlapping strokes united. Throws Fault (Blame::shot): empty text, no such font, a character the
/// font lacks (with a font that has it).
Outline outline_text(const std::string& utf8, const LetteringStyle&);

/// The name of a font that has every character of the text, or "". Throws Fault where it is no UTF-8.
std::string font_for(const std::string& utf8);

}  // namespace pour
