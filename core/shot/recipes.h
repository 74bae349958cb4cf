// Shots to start from.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

struct Recipe {
  const char* key;   // "fill-a-word"
  const char* name;  // "Fill a word with smoke"
  const char* help;  // one line
  Shot (*make)();
};
const std::vector<Recipe>& recipes();
/// Throws Fault (Blame::usage) with the nearest one.
const Recipe& find_recipe(const std::string& key);

}  // namespace pour
