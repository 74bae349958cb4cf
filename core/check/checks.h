// Checks of a shot: each says what will go wrong and why, and may offer a fix.
#pragma once
#include <filesystem>
#include <functional>
#include <string>
#include <vector>

#include "base/work.h"
#include "shot/shot.h"

namespace pour {

enum class CheckLevel { warning, fault };

struct Check {
  CheckLevel level = CheckLevel::warning;
  std::string title;     // what will happen
  std::string text;      // why
  std::string fix_name;  // label of the fix, or "" if there is none
  std::function<void(Shot&)> fix;
};

/// All checks, faults first. `disk` is the folder of runs. Takes seconds at most, by measuring walls more
/// coarsely in large shots. Throws GivenUp when stopped.
std::vector<Check> check_shot(const Shot&, const std::filesystem::path& disk, const StopAsked& stop = {});

}  // namespace pour
