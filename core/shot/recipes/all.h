// What recipes are made of, and all of them.
#pragma once
#include <initializer_list>
#include <utility>

#include "base/units.h"
#include "shape/placed.h"
#include "shot/recipes.h"
#include "shot/shipped.h"

namespace pour::recipe {

/// How large the soft box of the key light is, seen from the set; degrees.
void key_size(Shot&, double wide);
Piece word(const std::string& text);
/// A piece that only helps.
Piece guide(const char* id, const char* name, Shape, const Vec3d& position);
/// A piece that liquid runs over.
Piece solid(const char* id, const char* name, Shape, const Vec3d& position);
/// One of the shot's materials, of a usual kind in a colour of its own.
Material& add_material(Shot&, const char* id, const char* name, NamedMaterial, const Color&);
Material& made_of(Shot&, Piece&, const char* id, const char* name, NamedMaterial, const Color&);
/// Adds a smoke of this colour and its pour.
Pour& add_smoke(Shot&, const char* id, const char* name, const Color&);
/// A liquid of this name that comes out of a piece on a floor.
Pour& add_liquid(Shot&, const char* id, NamedLiquid, const char* source);
/// The liquid that was added last.
Liquid& last_liquid(Shot&);
/// When a frame of a film at 24 frames a second begins, as all of these are, s.
inline double at_frame(double frame) { return (frame - 1) / 24; }
/// Keys at frames.
Track keys(std::initializer_list<std::pair<double, Value>> values, Ease ease = Ease::smooth);
/// A force of this kind besides those of a new shot.
template <class Kind>
Force& add_force(Shot& s, const char* id, const char* name, const Kind& kind) {
  Force f = new_force(int(ForceKind(kind).index()));
  f.id = id, f.name = name, f.what = kind;
  s.forces.push_back(f);
  return s.forces.back();
}

// Words and marks.
Shot fill_a_word(const std::string& word);
Shot over_a_bridge(const std::string& word);
Shot around_a_word(const std::string& word);
Shot word_out_of_smoke(const std::string& word);
Shot mark_melts(const std::string& word);
Shot letters_fly_in(const std::string& word);
Shot tea_fills_a_word(const std::string& word);
Shot mark_of_paint(const std::string& word);
Shot a_word_blown_away(const std::string& word);
Shot word_into_a_mark(const std::string& word);
Shot mark_into_caramel(const std::string& word);
// Food and drink.
Shot tea_into_a_bowl(const std::string& word);
Shot syrup_over_pancakes(const std::string& word);
Shot jug_breathes(const std::string& word);
Shot cream_over_biscuits(const std::string& word);
Shot tea_through_a_strainer(const std::string& word);
Shot drops_on_cold_glass(const std::string& word);
// Packaging.
Shot jar_out_of_smoke(const std::string& word);
Shot tea_around_a_carton(const std::string& word);
Shot cream_on_a_jar(const std::string& word);
Shot ribbon_round_a_bottle(const std::string& word);
Shot beads_on_a_lid(const std::string& word);
// Abstract fluid.
Shot rising_smoke(const std::string& word);
Shot two_pears(const std::string& word);
Shot ball_opens(const std::string& word);

}  // namespace pour::recipe
