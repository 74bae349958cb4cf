// Walks, reads and writes the settings of a shot.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// A setting of one item of a shot. A copy, which does not follow later changes.
struct Setting : About {
  Value value;
  bool applies = true;         // whether it has an effect now
  std::optional<Track> track;  // if animated; the value is then unused
  bool can_animate() const { return pour::can_animate(*this, value); }
  std::string text() const { return to_text(*this, value); }
};

/// The settings of one item. `list` is empty for a single group ("forces"); for an item of a list ("pieces"),
/// `key` is its id.
struct Group {
  std::string list, key, name;
  std::string sentence;  // for the card, with keys of settings in braces; may be empty
  std::vector<Setting> settings;
  std::string path() const { return (list.empty() ? "" : list + ".") + key; }
  std::string path(const Setting& s) const { return path() + "." + s.key; }
  /// By its key; null if there is none.
  const Setting* find(const std::string& key) const;
};

/// Every group of the shot in the order of the recipe.
std::vector<Group> describe(const Shot&);

/// The setting at a path such as "pours.mint.density_rate". Throws Fault (Blame::shot) that names the nearest
/// known path.
Setting find_setting(const Shot&, const std::string& path);
/// Replaces a former name at the end of a path by today's. A path that names no setting is returned as it is.
std::string path_now(const Shot&, const std::string& path);
/// find_setting() with a clock, for reading typed times.
Setting timed(const Shot&, const std::string& path);
/// Writes a value of the setting's kind. Throws Fault (Blame::shot) for an unknown path or a value out of
/// range.
void set_value(Shot&, const std::string& path, const Value&);
/// Writes a value from text, as from_text() reads it; faults name `where`.
void set_text(Shot&, const std::string& path, const std::string& text, const std::string& where);
std::vector<std::string> setting_paths(const Shot&);

/// All settings as a Markdown reference.
std::string settings_reference();

/// An unused id for a new item, made from its name.
std::string new_id(const Shot&, const std::string& name);

}  // namespace pour
