// The fonts that ship with the program and those installed on the system.
#pragma once
#include <cstdint>
#include <string>
#include <vector>

namespace pour {

struct FontFile {
  std::string name;    // full name, "League Spartan Bold"
  std::string family;  // "League Spartan"
  std::string file;
  int face = 0;  // index in the file; the upper 16 bits choose a named instance of a variable font
  bool shipped = false;
};

/// All scalable fonts, the shipped ones first, then by name.
const std::vector<FontFile>& all_fonts();

/// The font with this full name or, for a family name, its regular style or the nearest to it. Throws Fault
/// (Blame::shot) that names the nearest font.
const FontFile& find_font(const std::string& name);

/// A font that has all these Unicode characters, or "".
std::string font_with(const std::vector<uint32_t>& characters);

}  // namespace pour
