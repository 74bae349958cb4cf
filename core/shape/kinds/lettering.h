// A word, set in a font and given depth; each letter, or what is joined, is a body.
#pragma once
#include "base/error.h"
#include "shape/body.h"
#include "shape/lettering.h"
#include "shape/spots.h"
#include "shot/setting.h"

namespace pour {

struct Lettering {
  std::string text = "ODDLARK";
  FontName font{"League Spartan Bold"};
  double letter_size = 0.10;  // height of a capital
  double depth = 0.045, bevel = 0.006, spacing = 0;
  bool operator==(const Lettering&) const = default;

  static constexpr Option kind{"lettering", "Lettering"};
  static constexpr const char* sentence = "Says {text} in {font}, {letter_size} high.";

  static Table<Lettering> settings() {
    using L = Lettering;
    return TableOf<L>()
        .touching(Touches::shape)
        .add(&L::text, "text", "Text", "Words to write, in any script.")
        .add(&L::font, "font", "Font", "Full name of a font that is shipped with the program or installed.")
        .add(&L::letter_size, "letter_size", "Letter height", Unit::length, {1e-3, 100, 0.02, 0.5},
             "Height of a capital letter.")
        .add(&L::depth, "depth", "Depth", Unit::length, {1e-4, 100, 0.005, 0.2},
             "Depth of the letters from front to back.")
        .add(&L::bevel, "bevel", "Bevel", Unit::length, {0, 10, 0, 0.02}, "Radius of the rounded edges.")
        .add(&L::spacing, "spacing", "Letter spacing", Unit::length, {-10, 10, -0.02, 0.1},
             "Extra space between letters. Negative values move them closer.")
        .more()
        .done();
  }

  std::vector<Body> bodies(const StopAsked& stop) const {
    const Outline outline = outline_text(text, {font.name, letter_size, depth, bevel, spacing});
    std::vector<Mesh> meshes = extrude(outline, depth, bevel);
    std::vector<Body> out;
    for (size_t i = 0; i < meshes.size(); ++i) {
      give_up_if(stop);
      Body body;
      const Spots spots = find_spots(outline.parts[i], letter_size);
      body.stroke = std::min(spots.stroke, depth);
      const auto seed = [&](SeedPlace place, const Spot& spot) {
        body.seeds[int(place)].push_back({spot.center, std::min(spot.radius, depth / 2)});
      };
      for (const Spot& s : spots.low) seed(SeedPlace::low, s);
      for (const Spot& s : spots.centre) seed(SeedPlace::centre, s);
      seed(SeedPlace::one_side, spots.one_side);
      body.mesh = std::move(meshes[i]);
      out.push_back(std::move(body));
    }
    return out;
  }
};

}  // namespace pour
