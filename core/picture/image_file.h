// Picture files: PNG and JPEG for viewing, EXR for compositing.
#pragma once
#include <filesystem>
#include <string>
#include <vector>

#include "base/pixels.h"
#include "picture/image.h"
#include "shot/shot.h"

namespace pour {

/// Metadata of a picture file.
struct MadeFrom {
  std::string inputs;  // hash of everything the picture depends on
  int samples = 0;     // paths a pixel; 0: a quick picture
  std::string parts;   // “piece 1 Bottle, fluid 1 Tea”, names for the numbers in passes
};

/// A layer of an EXR file: a name, and one float a pixel for each channel in `names`.
struct Channels {
  std::string name;                // “normal”, “light.key”; empty: channel names only
  std::vector<std::string> names;  // “X”, “Y”, “Z”
  std::vector<float> values;       // interleaved by pixel
  bool half = false;               // stored as half floats
  bool light = false;              // radiance: not negative and finite
};

/// “.png”, “.exr”, “.jpg”.
const char* suffix_of(Stills);

/// Writes the whole file or nothing. PNG: eight-bit sRGB, with straight alpha if there is one. JPEG: over
/// black, quality 95. EXR (half floats, zip): premultiplied linear Rec. 709 light before contrast and
/// roll-off, and the layers of `more`. Negative and invalid light becomes 0, light above 65504 becomes 65504;
/// returns the number of such values. Same bytes on every machine at any time.
size_t write_image(const Image&, const std::filesystem::path&, Stills, const MadeFrom& = {},
                   const std::vector<Channels>& more = {});
/// A picture of an unfinished film as 16-bit PNG, and back to the bit; false if it is missing, damaged or
/// made from other inputs.
void write_words(const Words&, const std::filesystem::path&, const MadeFrom&);
bool read_words(const std::filesystem::path&, const std::string& inputs, Words&);
/// The metadata of such a file; empty for others. Never throws.
MadeFrom made_from(const std::filesystem::path&);

}  // namespace pour
