// JSON input: parser errors become Faults that name file and line.
#pragma once
#include <nlohmann/json.hpp>
#include <string>

#include "base/text.h"

namespace pour {

using Json = nlohmann::ordered_json;

/// Throws Fault (Blame::shot) naming `where` for truncated or malformed text (with the line), numbers too
/// large, more than `json_deepest` nested brackets, and duplicate names. `what` names the expected content,
/// “a readable shot”; `mend` is advice besides editing by hand.
Json parse_json(const std::string& text, const std::string& where, const std::string& what,
                const std::string& mend = "Restore the file from a copy, or mend that place.");
constexpr int json_deepest = 32;

/// As text on one line. Invalid UTF-8 is replaced.
std::string one_line(const Json&);
/// A value as JSON, cut for messages.
std::string shown(const Json&);

/// Adds a checksum as the last member of an object, and checks it. Invalid UTF-8 is replaced. Throws Fault
/// (Blame::shot) naming `where` if the object was changed.
Json sealed(const Json&);
Json unsealed(Json, const std::string& where);

/// A member as a finite number from `low` to `high`, as an integer, or as text of at most `text_longest`
/// bytes. Throw Fault (Blame::shot) naming `where` if it is missing or of another kind.
double number_in(const Json& object, const char* key, double low, double high, const std::string& where);
int whole_in(const Json& object, const char* key, int low, int high, const std::string& where);
std::string text_in(const Json& object, const char* key, const std::string& where);

}  // namespace pour
