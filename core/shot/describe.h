// The settings of a shot as they stand, and the ways to walk, read and write them.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// A setting of one thing in the shot, as it stands. A copy: it knows nothing of what becomes of the shot.
struct Setting : About {
  Value value;
  bool applies = true;         // whether it has an effect now
  std::optional<Track> track;  // where it changes within the shot; the value then stands for nothing
  bool can_animate() const { return pour::can_animate(*this, value); }
  std::string text() const { return to_text(*this, value); }
};

/// Settings that belong together. `list` is "" for the single groups ("forces"), the list's key for an
/// item of a list ("pieces"), whose `key` is then its id.
struct Group {
  std::string list, key, name;
  std::string sentence;  // what it says, with the keys of settings in braces; may be empty
  std::vector<Setting> settings;
  std::string path() const { return (list.empty() ? "" : list + ".") + key; }
  std::string path(const Setting& s) const { return path() + "." + s.key; }
  /// By its key; null where there is none.
  const Setting* find(const std::string& key) const;
};

/// Every group of the shot in the order of the recipe.
std::vector<Group> describe(const Shot&);

/// The setting at a path such as "smokes.mint.density_rate". Throws Fault (Blame::shot) with the
/// nearest known path.
Setting find_setting(const Shot&, const std::string& path);
/// The same, and told in frames of the film whatever it is: for what is typed.
Setting timed(const Shot&, const std::string& path);
/// Writes a value of the kind that the setting has. Throws the same, and for one beyond its limits.
void set_value(Shot&, const std::string& path, const Value&);
/// The same from text, as from_text() reads it; faults name `where`.
void set_text(Shot&, const std::string& path, const std::string& text, const std::string& where);
std::vector<std::string> setting_paths(const Shot&);

/// All settings as a Markdown reference.
std::string settings_reference();

/// A free id for a new piece or smoke, made from its name.
std::string new_id(const Shot&, const std::string& name);

}  // namespace pour
