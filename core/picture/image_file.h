// Pictures as files: PNG and JPEG to be looked at, EXR to be worked on.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "base/pixels.h"
#include "picture/image.h"
#include "shot/shot.h"

namespace pour {

/// What a file says of how its picture was made, beside the picture.
struct MadeFrom {
  std::string inputs;  // a hash of all that the picture is made from
  int samples = 0;     // paths a pixel; 0: a quick picture
  std::string parts;   // “piece 1 Bottle, fluid 1 Tea”, of numbers in passes
};

/// More channels of an EXR file: a name, and as many floats a pixel as `names` has letters or more words.
struct Channels {
  std::string name;                // “normal”, “light.key”; empty: the letters alone
  std::vector<std::string> names;  // “X”, “Y”, “Z”
  std::vector<float> values;       // one after the other for each pixel
  bool half = false;               // as half floats
  bool light = false;              // radiance, which is neither negative nor endless
};

/// “.png”, “.exr”, “.jpg”.
const char* suffix_of(Stills);

/// Whole or not at all. PNG: eight bits in sRGB, with alpha (not multiplied) where there is one. JPEG: the
/// same over black, quality 95. EXR (OpenEXR, half floats, zip): linear Rec. 709 light as it is, before
/// contrast and roll-off, times alpha; `more` in channels of their own. Light that is no number or negative
/// becomes 0, and what half floats can't hold 65504: returns how many values that were. The same bytes on
/// every machine at any time.
size_t write_image(const Image&, const std::filesystem::path&, Stills, const MadeFrom& = {},
                   const std::vector<Channels>& more = {});
/// A picture as a film takes it, as PNG of sixteen bits, and back to the bit; false where that is not there,
/// torn or made from something else.
void write_words(const Words&, const std::filesystem::path&, const MadeFrom&);
bool read_words(const std::filesystem::path&, const std::string& inputs, Words&);
/// What a file that was written so says; empty for others. Never throws.
MadeFrom made_from(const std::filesystem::path&);

}  // namespace pour
