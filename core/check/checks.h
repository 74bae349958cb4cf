// What will go wrong with a shot: each says what will happen, why, and offers a fix.
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
  std::string fix_name;  // what the fix does, or "" where there is none
  std::function<void(Shot&)> fix;
};

/// The faults first. `disk` is the folder that runs will be stored in. Takes seconds at most, whatever the
/// shot: walls are looked at as coarsely as that needs. Throws GivenUp where `stop` asks for it.
std::vector<Check> check_shot(const Shot&, const std::filesystem::path& disk, const StopAsked& stop = {});

}  // namespace pour
