// A dependence as text and JSON.
#pragma once
#include <nlohmann/json_fwd.hpp>
#include <span>
#include <string>

#include "base/units.h"
#include "world/driver.h"

namespace pour {

struct Option;
struct About;

/// Key and label of each driver, and the unit of its figures.
std::span<const Option> drivers();
Unit unit_of(Driver);
/// Limits of the figures of a driver, and of factors.
const About& driver_limits(Driver);
const About& factor_limits();
/// A usual curve over a driver, to start from.
Dependence usual_dependence(Driver);

/// “nothing”, or “age: 0 s, 0 %; 2 s, 100 %”. Reading throws Fault (Blame::shot) for an unknown driver, and
/// for fewer than two points or points that do not rise.
std::string to_text(const Dependence&);
Dependence dependence_from_text(const std::string&, const std::string& where);
/// {"driver": "age", "points": [[0, 0], [2, 1]]}, or null. Throws as from text.
nlohmann::ordered_json to_json(const Dependence&);
Dependence dependence_from_json(const nlohmann::ordered_json&, const std::string& where);

}  // namespace pour
