// Shots to start from.
#pragma once
#include <span>
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// What a recipe is for.
enum class RecipeJob { lettering, food, packaging, abstract };
std::span<const Option> recipe_jobs();

struct Recipe {
  const char* key;  // "fill-a-word"
  RecipeJob job;
  const char* name;  // "Fill a word with smoke"
  const char* help;  // one line
  Shot (*build)(const std::string& word);
  /// With this word where it has one, or with its own.
  Shot make(const std::string& word = {}) const { return build(word); }
};
const std::vector<Recipe>& recipes();
/// Throws Fault (Blame::usage) with the nearest one.
const Recipe& find_recipe(const std::string& key);

}  // namespace pour
