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
  bool split = false;        // letters that touch are cut apart
};

/// Shapes the text (bidirectional, contextual, ligatures, marks) and returns its outline with
/// overlapping strokes united. Throws Fault (Blame::shot): empty text, no such font, a character the
/// font lacks (with a font that has it). Where the font is missing, letters that came with a shot are
/// taken.
Outline outline_text(const std::string& utf8, const LetteringStyle&);

/// The same with each letter by itself, from left to right; its dots and accents belong to it.
struct Word {
  Outline outline;
  std::vector<Outline> letters;
};
Word word_outline(const std::string& utf8, const LetteringStyle&);

/// A text as a font draws it, so that it can be set where the font is missing: bytes that no machine reads in
/// another way. Empty where it can't be set.
std::string pack_letters(const std::string& utf8, const std::string& font);
/// What came with a shot: where the font is missing, this text is set so from now on. Throws Fault
/// (Blame::shot) of `where` for bytes that pack_letters() did not make.
void keep_letters(const std::string& utf8, const std::string& font, const std::string& bytes,
                  const std::string& where);
/// Whether the font is missing and only these letters of it are there.
bool are_borrowed(const std::string& utf8, const std::string& font);

/// The name of a font that has every character of the text, or "". Throws Fault where it is no UTF-8.
std::string font_for(const std::string& utf8);

}  // namespace pour
