// A word set in a font with depth. Each connected part is a body.
#pragma once
#include <cmath>

#include "base/error.h"
#include "shape/body.h"
#include "shape/lettering.h"
#include "shape/spots.h"
#include "shot/setting.h"

namespace pour {

struct Lettering {
  std::string text = "ODDLARK";
  FontName font{"League Spartan Bold"};
  double letter_size = 0.10;  // height of a capital letter
  double depth = 0.045, bevel = 0.006, spacing = 0;
  bool joined = true;
  bool operator==(const Lettering&) const = default;

  static constexpr Option kind{"lettering", "Lettering"};
  static constexpr Option apart[] = {{"no", "cut apart"}, {"yes", "joined"}};
  static constexpr const char* sentence = "Says {text} in {font}, {letter_height} high.";

  static Table<Lettering> settings() {
    using L = Lettering;
    return TableOf<L>()
        .touching(Touches::shape)
        .add(&L::text, "text", "Text", "Words to write, in any script.")
        .add(&L::font, "font", "Font", "Full name of a font that is shipped with the program or installed.")
        .add(&L::letter_size, "letter_height", "Letter height", Unit::length, {1e-3, 100, 0.02, 0.5},
             "Height of a capital letter.")
        .formerly("letter_size")
        .add(&L::depth, "depth", "Depth", Unit::length, {1e-4, 100, 0.005, 0.2},
             "Depth of the letters from front to back.")
        .add(&L::bevel, "bevel", "Bevel", Unit::length, {0, 10, 0, 0.02}, "Radius of the rounded edges.")
        .add(&L::spacing, "letter_spacing", "Letter spacing", Unit::length, {-10, 10, -0.02, 0.1},
             "Extra space between letters. Negative values move them closer.")
        .formerly("spacing")
        .more()
        .add(&L::joined, "touching_letters", "Touching letters",
             "Whether letters that touch form one vessel, or are cut apart by a narrow gap. Each letter has "
             "seeds "
             "of its own either way.")
        .formerly("joined")
        .words(apart)
        .more()
        .done();
  }

  LetteringStyle style() const { return {font.name, letter_size, depth, bevel, spacing, !joined}; }

  std::vector<Body> bodies(const StopAsked& stop) const {
    const Word word = word_outline(text, style());
    std::vector<Mesh> meshes = extrude(word.outline, depth, bevel);
    std::vector<Body> out(meshes.size());
    for (size_t i = 0; i < meshes.size(); ++i) out[i].mesh = std::move(meshes[i]);
    for (const Outline& letter : word.letters) {
      give_up_if(stop);
      seed_letter(out, word.outline, letter);
    }
    return out;
  }

 private:
  /// Adds the seeds of a letter and its dots to their bodies. Seeds of a dot are smaller, so that it is full
  /// when its letter is.
  void seed_letter(std::vector<Body>& bodies, const Outline& outline, const Outline& letter) const {
    std::vector<Spots> spots;
    size_t main = 0;
    for (const Outline::Part& part : letter.parts) {
      spots.push_back(find_spots(part, letter_size));
      if (part.area() > letter.parts[main].area()) main = spots.size() - 1;
    }
    for (size_t k = 0; k < letter.parts.size(); ++k) {
      const Vec3d at = spots[k].centre.front().center;
      size_t in = 0;
      for (size_t i = 0; i < outline.parts.size(); ++i)
        if (distance_inside(outline.parts[i], at.x, at.y) > 0) in = i;
      const double share = letter.parts[k].area() / letter.parts[main].area();
      const double room = std::min(spots[main].low.front().radius, depth / 2);
      bodies[in].stroke = std::max(bodies[in].stroke, std::min(spots[k].stroke, depth));
      add_seeds(bodies[in], spots[k], depth, k == main ? 1e300 : std::cbrt(share) * room);
    }
  }
};

}  // namespace pour
