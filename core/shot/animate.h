// Animated settings: the shot at a time, and changes to its tracks.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "shot/clock.h"
#include "shot/describe.h"

namespace pour {

/// The shot at a time: every track evaluated, spin added to turns, and no tracks left.
Shot shot_at(const Shot&, const Clock&, double time);
/// The shot at a film frame.
inline Shot shot_at(const Shot& shot, double film_frame) {
  const Clock clock(shot);
  return shot_at(shot, clock, clock.time(film_frame));
}

/// When a piece turns into a fluid, s; from then on it neither blocks nor shows.
std::optional<double> turns_at(const Shot&, const Piece&);
/// Whether a piece has turned into a fluid by a time.
bool has_turned(const Shot&, const Piece&, double time);

/// Whether a piece moves, by tracks, spin, or a moving parent or path.
bool moves(const Shot&, const Piece&);

/// The track of a setting, or null. Throws Fault (Blame::shot) for an unknown path.
const Track* find_track(const Shot&, const std::string& path);
/// Sets, replaces or removes a setting's track. Throws Fault (Blame::shot) for an unknown path or a setting
/// that cannot be animated.
void set_track(Shot&, const std::string& path, const std::optional<Track>&);
/// Sets a setting: a key at this film frame if it has a track, its value otherwise. A piece that is attached
/// or detached stays in place.
void change_value(Shot&, const std::string& path, const Value&, double film_frame);
/// A setting's value at a film frame.
Value value_at(const Shot&, const std::string& path, double film_frame);
/// The paths of all settings that have a track, in the order of the recipe.
std::vector<std::string> animated_paths(const Shot&);

}  // namespace pour
