// The outline of a word: font, shaping, united strokes.
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
  bool split = false;        // touching letters are cut apart
};

/// Shapes the text (bidirectional, contextual, ligatures, marks) and returns its outline with overlapping
/// strokes united. Throws Fault (Blame::shot): empty text, no such font, a character the font lacks (with a
/// font that has it). If the font is missing, letters kept in the shot are used.
Outline outline_text(const std::string& utf8, const LetteringStyle&);

/// The outline of each letter with its dots and accents, from left to right.
struct Word {
  Outline outline;
  std::vector<Outline> letters;
};
Word word_outline(const std::string& utf8, const LetteringStyle&);

/// The outlines of a text as portable bytes, so that it can be set where the font is missing. Empty if it
/// cannot be set.
std::string pack_letters(const std::string& utf8, const std::string& font);
/// Registers outlines of pack_letters() for use where the font is missing. Throws Fault (Blame::shot) naming
/// `where` for other bytes.
void keep_letters(const std::string& utf8, const std::string& font, const std::string& bytes,
                  const std::string& where);
/// Whether the font is missing and its kept letters are used.
bool are_borrowed(const std::string& utf8, const std::string& font);

/// A font that has every character of the text, or "". Throws Fault for invalid UTF-8.
std::string font_for(const std::string& utf8);

}  // namespace pour
