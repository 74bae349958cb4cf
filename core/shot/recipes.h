// Shots to start from.
#pragma once
#include <span>
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// The job that a recipe is for.
enum class RecipeJob { lettering, food, packaging, abstract };
std::span<const Option> recipe_jobs();

struct Recipe {
  const char* key;  // "fill-a-word"
  RecipeJob job;
  const char* name;     // "Fill a word with smoke"
  const char* help;     // one line
  const char* teaches;  // a few words
  int draft;            // s, a draft of all frames on two cores, by its estimate
  Shot (*build)(const std::string& word);
  /// Builds the shot, with this word in place of its own if it has one.
  Shot make(const std::string& word = {}) const { return build(word); }
};
const std::vector<Recipe>& recipes();
/// Throws Fault (Blame::usage) that names the nearest key.
const Recipe& find_recipe(const std::string& key);

}  // namespace pour
