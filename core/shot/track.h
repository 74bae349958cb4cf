// How a setting changes within a shot: keys with the way from one to the next, what comes before and after
// them, and a wobble on top.
#pragma once
#include <map>
#include <string>
#include <vector>

#include "shot/limits.h"

namespace pour {

/// The way from a key to the next one. Values that can't be mixed (choices, yes and no) only hold.
enum class Ease {
  hold,    // stays, then jumps
  linear,  // evenly
  smooth,  // monotone cubic through all keys around (Fritsch & Carlson 1980): never beyond them
  own,     // a cubic Bézier curve of its own
};

/// Control points of a cubic Bézier curve from (0, 0) to (1, 1): share of the time, share of the way. Times
/// are from 0 to 1.
struct Handles {
  double out_time = 0.35, out_way = 0, in_time = 0.65, in_way = 1;
  bool operator==(const Handles&) const = default;
};

struct Key {
  double time = 0;  // s: of the film for what the camera sees, of what is filmed for the rest
  Value value;
  Ease ease = Ease::smooth;
  Handles handles;  // where ease is own
  bool operator==(const Key&) const = default;
};

/// What there is before the first key or after the last one.
enum class Beyond {
  stays,
  repeats,
  swings,  // back and forth
  adds,    // repeats, and goes on from where it ended
};

/// Unrest on top of the keys: no faster than its rate, the same for the same seed.
struct Wobble {
  Vec3d amount{};       // of each axis, about the most that it adds; x alone where there is just a number
  Vec3d rate{1, 1, 1};  // 1/s
  int seed = 1;
  bool any() const { return !(amount == Vec3d{}); }
  bool operator==(const Wobble&) const = default;
};

struct Track {
  std::vector<Key> keys;  // in the order of their times, at least one
  Beyond before = Beyond::stays, after = Beyond::stays;
  Wobble wobble;
  bool operator==(const Track&) const = default;

  /// The key at this time, or null.
  const Key* key_at(double time) const;
  /// Adds a key, or gives the one at that time another value.
  void set_key(double time, const Value&);
};

/// Tracks of an item by the key of their setting.
using Tracks = std::map<std::string, Track>;

/// “forces.gravity@1.5s”, as the command line names a key.
std::string key_path(const std::string& path, double time);

constexpr size_t most_keys = 20000;    // of a track
constexpr double last_key_time = 1e6;  // keys are within this of frame 1, s
constexpr double same_time = 1e-8;     // keys are further apart than this, s

/// Whether a setting of this kind may have a track.
bool can_animate(const About&, const Value& like);
/// Whether values of this kind can be mixed; others hold.
bool can_mix(const Value&);
/// Numbers that a value is made of: 1, 3, or 0 where it can't be mixed.
int parts_of(const Value&);
double part_of(const Value&, int part);
void set_part(Value&, int part, double);

/// The value at a time, s, kept within the setting's range.
Value evaluate(const About&, const Track&, double time);

/// The share of the way at a share of the time on a Bézier curve with these handles.
double bezier_ease(const Handles&, double time);

extern const Option ease_names[4], beyond_names[4];

/// "1: −0.5 smooth, 48: −1" in frames of the film, with what comes before and after, for people and for
/// `show`.
std::string to_text(const About&, const Track&);

nlohmann::ordered_json to_json(const About&, const Track&);
/// Throws Fault (Blame::shot): no key, two at one time, a value of another kind. Keys beyond the limits of
/// the setting at `path` are clamped and noted in `found`.
Track track_from_json(const About&, const Value& like, const nlohmann::ordered_json&, const std::string& path,
                      const std::string& where, std::vector<OutOfRange>& found);

}  // namespace pour
