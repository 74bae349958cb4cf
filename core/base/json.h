// JSON at the door: what a library says of a bad text becomes a Fault that names the file and the line.
#pragma once
#include <nlohmann/json.hpp>
#include <string>

#include "base/text.h"

namespace pour {

using Json = nlohmann::ordered_json;

/// Throws Fault (Blame::shot) of `where` for a text that breaks off or is garbled (with the line), for
/// numbers too large to be held, more than `json_deepest` brackets within each other, and two values of one
/// name. `what` is what the file should be: “a readable shot”; `mend` what to do otherwise than to mend it by
/// hand.
Json parse_json(const std::string& text, const std::string& where, const std::string& what,
                const std::string& mend = "Restore the file from a copy, or mend that place.");
constexpr int json_deepest = 32;

/// As text on one line; bytes that are no UTF-8 are replaced.
std::string one_line(const Json&);
/// A value as it stands in a file, short enough for a message.
std::string shown(const Json&);

/// An object with a checksum of itself as its last member, and back. What a name on disk has that is no UTF-8
/// is replaced. Throws Fault (Blame::shot) of `where` where it was changed since.
Json sealed(const Json&);
Json unsealed(Json, const std::string& where);

/// A member as a finite number from `low` to `high`, as a whole one, or as text of at most `text_longest`
/// bytes. Throw Fault (Blame::shot) of `where` where it is missing or something else.
double number_in(const Json& object, const char* key, double low, double high, const std::string& where);
int whole_in(const Json& object, const char* key, int low, int high, const std::string& where);
std::string text_in(const Json& object, const char* key, const std::string& where);

}  // namespace pour
