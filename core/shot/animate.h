// Settings of a shot that change in time: reading the shot at a time, and changing its tracks.
#pragma once
#include <optional>
#include <string>
#include <vector>

#include "shot/clock.h"
#include "shot/describe.h"

namespace pour {

/// The shot as it is at a time: every track evaluated, spin added to the turns, and no track any more.
Shot shot_at(const Shot&, const Clock&, double time);
/// The same at a frame of the film.
inline Shot shot_at(const Shot& shot, double film_frame) {
  const Clock clock(shot);
  return shot_at(shot, clock, clock.time(film_frame));
}

/// Whether anything changes where pieces stand: tracks, spin, parents and paths that move.
bool moves(const Shot&, const Piece&);

/// The track of a setting, or null. Throws Fault (Blame::shot) for a path that is none.
const Track* find_track(const Shot&, const std::string& path);
/// Gives a setting a track, another one, or none. Throws the same, and for one that can't have a track.
void set_track(Shot&, const std::string& path, const std::optional<Track>&);
/// Sets the value of a setting: a key at this frame of the film where it has a track, its value otherwise. A
/// piece that is given to another one, or taken away, stays where it is.
void change_value(Shot&, const std::string& path, const Value&, double film_frame);
/// What a setting says at a frame of the film.
Value value_at(const Shot&, const std::string& path, double film_frame);
/// The paths of all settings that have a track, in the order of the recipe.
std::vector<std::string> animated_paths(const Shot&);

}  // namespace pour
