// Shots of earlier file versions.
#pragma once
#include <nlohmann/json_fwd.hpp>
#include <string>

namespace pour {

/// A shot of an earlier version as one of this version. What is wrong in it stays wrong, for the reader to
/// say. Throws Fault (Blame::shot) where it can't be made sense of.
nlohmann::ordered_json brought_up_to_date(nlohmann::ordered_json, const std::string& where);

}  // namespace pour
