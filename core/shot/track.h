// Animation of a setting: keys, interpolation, extrapolation and wobble.
#pragma once
#include <map>
#include <string>
#include <vector>

#include "shot/limits.h"

namespace pour {

/// Interpolation from a key to the next. Values that cannot be mixed (choices, yes and no) only hold.
enum class Ease {
  hold,    // constant, then jumps
  linear,  // constant speed
  smooth,  // monotone cubic (Fritsch & Carlson 1980), without overshoot
  own,     // cubic Bézier curve with handles
};

/// Control points of a cubic Bézier curve from (0, 0) to (1, 1): share of the time (0 to 1), share of the
/// change.
struct Handles {
  double out_time = 0.35, out_way = 0, in_time = 0.65, in_way = 1;
  bool operator==(const Handles&) const = default;
};

struct Key {
  double time = 0;  // s: film time for camera, light and picture, otherwise shot time
  Value value;
  Ease ease = Ease::smooth;
  Handles handles;  // if ease is own
  bool operator==(const Key&) const = default;
};

/// Extrapolation before the first key or after the last.
enum class Beyond {
  stays,
  repeats,
  swings,  // back and forth
  adds,    // repeats, offset by the total change
};

/// Band-limited noise added to the keys; reproducible by its seed.
struct Wobble {
  Vec3d amount{};       // approximate amplitude of each axis; x alone for numbers
  Vec3d rate{1, 1, 1};  // 1/s
  int seed = 1;
  bool any() const { return !(amount == Vec3d{}); }
  bool operator==(const Wobble&) const = default;
};

struct Track {
  std::vector<Key> keys;  // ordered by time, at least one
  Beyond before = Beyond::stays, after = Beyond::stays;
  Wobble wobble;
  bool operator==(const Track&) const = default;

  /// The key at this time, or null.
  const Key* key_at(double time) const;
  /// Adds a key, or changes the value of the key at that time.
  void set_key(double time, const Value&);
};

/// Tracks of an item by the key of their setting.
using Tracks = std::map<std::string, Track>;

/// “forces.gravity@1.5s”, as the command line names a key.
std::string key_path(const std::string& path, double time);

constexpr size_t most_keys = 20000;    // of a track
constexpr double last_key_time = 1e6;  // largest distance of keys from frame 1, s

/// Whether a setting can be animated.
bool can_animate(const About&, const Value& like);
/// Whether values of this kind can be interpolated; others hold.
bool can_mix(const Value&);
/// Number of components of a value: 1, 3, or 0 if it cannot be interpolated.
int parts_of(const Value&);
double part_of(const Value&, int part);
void set_part(Value&, int part, double);

/// The value at a time, s, clamped to the setting's range.
Value evaluate(const About&, const Track&, double time);

/// Share of the change at a share of the time on a Bézier curve with these handles.
double bezier_ease(const Handles&, double time);

extern const Option ease_names[4], beyond_names[4];

/// "1: −0.5 smooth, 48: −1" in film frames, with extrapolation, for people and for `show`.
std::string to_text(const About&, const Track&);

nlohmann::ordered_json to_json(const About&, const Track&);
/// Throws Fault (Blame::shot): no keys, two keys at one time, or a value of another kind. Keys out of range
/// of the setting at `path` are clamped and recorded in `found`.
Track track_from_json(const About&, const Value& like, const nlohmann::ordered_json&, const std::string& path,
                      const std::string& where, std::vector<OutOfRange>& found);

}  // namespace pour
