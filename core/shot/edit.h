// Adds, removes, renames and moves items of a shot.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// Each function here returns the path of the new item, "pieces.ball". An empty name is replaced by that of
/// its kind.
std::string add_new_piece(Shot&, int kind, const std::string& name);
/// Adds a smoke with an unused colour, or water, and a pour of it.
std::string add_new_fluid(Shot&, int kind, const std::string& name);
template <class Kind>
std::string add_new_fluid(Shot& shot, const std::string& name) {
  return add_new_fluid(shot, int(FluidKind(Kind()).index()), name);
}
/// Adds a pour of the first fluid. Throws Fault (Blame::shot) if the shot has no fluid.
std::string add_new_pour(Shot&, const std::string& name);

/// Adds a light.
std::string add_new_light(Shot&, LightKind, const std::string& name);

/// Adds a force of this kind.
std::string add_new_force(Shot&, int kind, const std::string& name);
/// Adds a material of this kind.
std::string add_new_material(Shot&, NamedMaterial, const std::string& name);
/// Sets the material of a piece or liquid at `path`: a material of the shot by its id, a new one of a kind
/// (“porcelain”, or “new porcelain” if a material has that id), or "" for none. Throws Fault (Blame::shot)
/// for anything else.
void make_of(Shot&, const std::string& path, const std::string& material);

/// The path of an item, from its path, id or name in any case. `list` restricts the search (“pieces”); ""
/// searches all. Throws Fault (Blame::shot) if no item or several match.
std::string named_item(const Shot&, const std::string& list, const std::string& word);

/// Removes an item. Pieces attached to it stay in place, and pours of a removed fluid are removed too. Throws
/// Fault (Blame::shot) for an unknown path.
void remove_item(Shot&, const std::string& path);
/// Adds a copy after the item, called “… 2”; a fluid is copied with its pours, a piece without attached
/// pieces and pours. Returns its path. Throws Fault (Blame::shot) for an unknown path.
std::string duplicate_item(Shot&, const std::string& path);
/// Moves an item up (-1) or down (1) in its list, if it is not at the end. Throws Fault (Blame::shot) for an
/// unknown path.
void shift_item(Shot&, const std::string& path, int by);
/// Throws Fault (Blame::shot) for an unknown path.
void rename_item(Shot&, const std::string& path, const std::string& name);
/// Attaches a piece to another one, or to none (""). At time 0 it stays in place. Throws Fault (Blame::shot)
/// if pieces would be attached in a circle.
void set_parent(Shot&, const std::string& piece, const std::string& parent);

/// Moves a piece, at frame 1: lowest point on the floor; centre over the centre of the floor; or turned so
/// that its front faces up. Throws Fault (Blame::shot) for an unknown piece or one that cannot be built.
enum class Settle { floor, centre, upright };
void settle_piece(Shot&, const std::string& piece, Settle);
/// Splits a model into a piece for each part, or a single part into its connected surfaces. The new pieces
/// keep all settings and their place. Returns the paths. Throws Fault (Blame::shot) if it is not a model or
/// cannot be split.
std::vector<std::string> take_apart(Shot&, const std::string& piece);
/// Adds a piece made of one part of a model (model_parts.h), in its place and attached to it, for example to
/// pour out of. It has no role yet. Returns its path. Throws Fault (Blame::shot) for an unknown part.
std::string add_part(Shot&, const std::string& piece, const std::string& part);
/// Turns a piece into a fluid of the shot at a film frame: it is solid and shown until then, and filled with
/// the fluid in its own colours from then on. A piece that turns already turns now. Returns the path of the
/// pour. Throws Fault (Blame::shot) for an unknown piece or fluid.
std::string turn_into(Shot&, const std::string& piece, const std::string& fluid, double film_frame);
/// Sets the pose of a piece at a film frame, as keys if it is animated. Throws Fault (Blame::shot) for an
/// unknown piece.
void place_piece(Shot&, const std::string& piece, const Pose&, double film_frame);
/// Adds a pour window, cut to the space between the others and within the shot. Throws Fault (Blame::shot) if
/// there is no space.
void add_window(Shot&, const std::string& pour, const FrameRange&);
/// Splits a pour window at the start of a film frame.
void split_window(Shot&, const std::string& pour, size_t window, double film_frame);

/// Gives a setting a track with a key at this film frame. Throws Fault (Blame::shot) if it cannot be
/// animated.
void start_animating(Shot&, const std::string& path, double film_frame);
/// Removes the track; the setting keeps its value at this film frame.
void stop_animating(Shot&, const std::string& path, double film_frame);

}  // namespace pour
