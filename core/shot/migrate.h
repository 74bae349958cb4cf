// Shots of earlier file versions.
#pragma once
#include <nlohmann/json_fwd.hpp>
#include <string>

namespace pour {

/// Converts a shot of an earlier file version to this one. Invalid values are left for the reader to report.
/// Throws Fault (Blame::shot) if the structure cannot be read.
nlohmann::ordered_json brought_up_to_date(nlohmann::ordered_json, const std::string& where);

}  // namespace pour
