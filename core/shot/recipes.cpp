#include "shot/recipes.h"

#include "base/error.h"
#include "base/text.h"
#include "shot/recipes/all.h"

namespace pour {

std::span<const Option> recipe_jobs() {
  static constexpr Option all[] = {{"lettering", "Lettering and logos"},
                                   {"food", "Food and drink"},
                                   {"packaging", "Packaging"},
                                   {"abstract", "Abstract"}};
  return all;
}

const std::vector<Recipe>& recipes() {
  using namespace recipe;
  static const std::vector<Recipe> all{
      {"fill-a-word", RecipeJob::lettering, "Fill a word with smoke",
       "Each letter is a vessel of glass that fills from its feet.", "seeds and pour windows", 25,
       fill_a_word},
      {"around-a-word", RecipeJob::lettering, "Smoke around a word", "Solid letters stand in rising smoke.",
       "solid letters in free smoke", 55, around_a_word},
      {"word-out-of-smoke", RecipeJob::lettering, "A word rises out of smoke",
       "Solid letters rise out of a bed of smoke that slides off.", "keys on position and on weight", 20,
       word_out_of_smoke},
      {"letters-fly-in", RecipeJob::lettering, "Letters fly in",
       "Letters of glass fly in on curves, with smoke swinging inside.", "pieces that follow paths", 15,
       letters_fly_in},
      {"a-mark-melts", RecipeJob::lettering, "A mark melts",
       "A mark drawn in coloured smoke hangs still, then melts and runs down.",
       "smoke that hangs, then falls", 58, mark_melts},
      {"jar-out-of-smoke", RecipeJob::packaging, "A jar out of smoke",
       "A product from a model file rises from a bed of smoke, turning.", "a model, and how it moves", 22,
       jar_out_of_smoke},
      {"a-mark-of-paint", RecipeJob::lettering, "A mark of paint",
       "A mark turns to thick paint in its own colours and slumps.", "a liquid of your own", 9,
       mark_of_paint},
      {"cream-on-a-jar", RecipeJob::packaging, "Cream on a jar",
       "Cream seeps out around a jar, beads and clings, then warms and runs down.",
       "part of a model as a source", 120, cream_on_a_jar},
      {"a-jug-breathes", RecipeJob::food, "A jug breathes",
       "Mist swirls up in a clay jug and spills over its lip. Then the jug tips.", "a vessel that tips", 57,
       jug_breathes},
      {"rising-smoke", RecipeJob::abstract, "Rising smoke", "A warm ball lets smoke rise freely.",
       "warmth, turbulence and swirls", 26, rising_smoke},
      {"tea-into-a-bowl", RecipeJob::food, "Tea into a bowl",
       "Tea pours from a bottle's mouth into a stoneware bowl.", "a spout, aimed at a bowl", 120,
       tea_into_a_bowl},
      {"tea-fills-a-word", RecipeJob::lettering, "Tea fills a word",
       "Glass letters fill with tea from their feet, then rock until the tea swings.",
       "liquid in moving letters", 300, tea_fills_a_word},
      {"syrup-over-pancakes", RecipeJob::food, "Syrup over pancakes",
       "Pear syrup loops onto a stack of pancakes, folds and runs down.", "thick liquid, a spout that moves",
       240, syrup_over_pancakes},
      {"tea-around-a-carton", RecipeJob::packaging, "Tea around a carton",
       "A sheet of tea hits a carton in slow motion, without gravity.", "slow motion without gravity", 10,
       tea_around_a_carton},
      {"two-pears", RecipeJob::abstract, "Two pears",
       "A pear of oat milk falls beside a pear of smoke that rises.", "smoke beside liquid", 36, two_pears},
      {"ribbon-round-a-bottle", RecipeJob::packaging, "A ribbon round a bottle",
       "A ribbon of smoke winds up round a bottle.", "a swirl with lift", 60, ribbon_round_a_bottle},
      {"a-word-blown-away", RecipeJob::lettering, "A word blown away",
       "A gust goes along a word of smoke and takes letter by letter with it.",
       "wind with a reach that moves", 40, a_word_blown_away},
      {"a-word-into-a-mark", RecipeJob::lettering, "A word flows into a mark",
       "A word of weightless tea flows into another word, then into a mark.", "liquid gathered into shapes",
       120, word_into_a_mark},
      {"a-mark-into-caramel", RecipeJob::lettering, "A mark turns into caramel",
       "A solid seal turns into caramel of its own colours and runs down.", "a piece that turns into a fluid",
       180, mark_into_caramel},
      {"beads-on-a-lid", RecipeJob::packaging, "Beads on a lid",
       "Drops gather in the air, fall when they are two seconds old, and bead up on a waxed lid.",
       "a strength that depends on age", 85, beads_on_a_lid},
      {"a-ball-opens", RecipeJob::abstract, "A ball opens",
       "Drops of syrup are drawn together in the air, and a push opens the ball they form.",
       "a pull outside, a push inside", 80, ball_opens},
      {"tea-through-a-strainer", RecipeJob::food, "Tea through a strainer",
       "Tea runs through a strainer, and its streams are drawn to the middle and join.",
       "holes, and a pull to a line", 10, tea_through_a_strainer},
      {"over-a-bridge", RecipeJob::lettering, "Over a bridge",
       "Smoke fills one letter and crosses a bridge into the next.", "vessels that are joined", 9,
       over_a_bridge},
      {"drops-on-cold-glass", RecipeJob::food, "Drops on cold glass",
       "Drops cling to a pane until one runs down and takes others along.", "contact angles of drops", 6,
       drops_on_cold_glass},
      {"cream-over-biscuits", RecipeJob::food, "Cream over biscuits",
       "Thick oat cream is laid back and forth over a row of biscuits.", "yield stress, a spout on a path",
       23, cream_over_biscuits},
  };
  return all;
}

const Recipe& find_recipe(const std::string& key) {
  std::vector<std::string> keys;
  for (const Recipe& r : recipes()) {
    if (r.key == key) return r;
    keys.emplace_back(r.key);
  }
  const std::string near = nearest(key, keys);
  throw usage_fault(filled("Recipe “{key}”", {{"key", key}}), "does not exist.",
                    did_you_mean(near, "List them with “easy-pour-cli recipes”."));
}

}  // namespace pour
