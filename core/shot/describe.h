// The one description of every setting, and the ways to walk it.
#pragma once
#include <functional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "base/units.h"
#include "shot/shot.h"

namespace pour {

/// One choice of a setting that has a few: the word in files and the words on screen.
struct Option {
  const char* key;
  const char* label;
};

/// A setting that is one of a list of options; get and set give the index.
struct ChoiceRef {
  std::span<const Option> options;
  std::function<int()> get;
  std::function<void(int)> set;
};
/// The id of a piece of the shot, or "" for none.
struct PieceRef {
  std::string* id;
};
/// A font by its full name.
struct FontRef {
  std::string* name;
};

using SettingRef = std::variant<double*, int*, bool*, std::string*, Vec3d*, Color*, FrameRange*, ChoiceRef,
                                PieceRef, FontRef>;

/// Where in the recipe a setting is shown: in the card, or under "more".
enum class Depth { main, more };

struct Setting {
  std::string key;   // word in files and paths
  std::string name;  // words on screen
  std::string help;  // one line
  Unit unit = Unit::none;
  double low = 0, high = 1;                // what is accepted, SI
  double slider_low = 0, slider_high = 1;  // what the slider covers, SI
  std::string zero;                        // a word for 0, where that means something else than very little
  Depth depth = Depth::main;
  SettingRef ref;
  std::function<bool()> applies;  // empty: always; otherwise whether it has an effect now
};

/// Settings that belong together. `list` is "" for the single groups ("forces"), the list's key for an
/// item of a list ("pieces"), whose `key` is then its id.
struct Group {
  std::string list, key, name;
  std::vector<Setting> settings;
  std::string path(const Setting& s) const { return (list.empty() ? "" : list + ".") + key + "." + s.key; }
};

/// Every group of the shot in the order of the recipe. The references point into `shot`.
std::vector<Group> describe(Shot& shot);
/// The settings of one value, for editors that show just that.
Group describe(Piece&);
Group describe(Smoke&);

/// A setting as text in its friendly unit ("12 cm", "1-40", "holds") and back. Reading throws Fault
/// (Blame::shot) that names `where`, the range and the units.
std::string to_text(const Setting&);
void from_text(const Setting&, const std::string& text, const std::string& where);
/// "#c4f0df", in sRGB.
std::string hex(const Color&);

/// The setting at a path such as "smokes.mint.density_rate". Throws Fault (Blame::shot) with the
/// nearest known path.
Setting find_setting(Shot&, const std::string& path);
std::vector<std::string> setting_paths(const Shot&);

/// A line for each setting that differs: "Heat lift 1 → 0.4"; pieces and smokes that came or went too.
struct Change {
  std::string path, text;
};
std::vector<Change> changes(const Shot& before, const Shot& after);

/// A shot under the title, look, camera and picture size of another: what a run does not depend on.
Shot seen_as(Shot shot, const Shot& other);
/// Whether nothing differs that needs a new run.
bool same_simulation(const Shot&, const Shot&);

/// All settings as a Markdown reference.
std::string settings_reference();

/// A free id for a new piece or smoke, made from its name.
std::string new_id(const Shot&, const std::string& name);

}  // namespace pour
