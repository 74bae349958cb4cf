// Adding, removing and renaming what is in a shot.
#pragma once
#include <string>
#include <vector>

#include "shot/shot.h"

namespace pour {

/// Each returns the path of what it added, "pieces.ball"; an empty name is one that says what it is.
std::string add_new_piece(Shot&, int kind, const std::string& name);
/// A smoke of a colour of its own or water, and a pour of it.
std::string add_new_fluid(Shot&, FluidKind, const std::string& name);
/// A pour of the first fluid. Throws Fault (Blame::shot) where there is none.
std::string add_new_pour(Shot&, const std::string& name);

/// A light beside those that there are.
std::string add_new_light(Shot&, LightKind, const std::string& name);

/// A material of this kind; an empty name is that of the kind.
std::string add_new_material(Shot&, NamedMaterial, const std::string& name);
/// What a piece or a liquid, by its path, is made of: a material of the shot by its id, a new one of a kind
/// (“porcelain”, or “new porcelain” where a material is called so), or "" for none. Throws Fault
/// (Blame::shot) for none of these.
void make_of(Shot&, const std::string& path, const std::string& material);

/// The path of an item by its path, its id or its name, in any case. `list` says where it has to be
/// (“pieces”);
/// "": anywhere. Throws Fault (Blame::shot) where nothing, or more than one thing, is called so.
std::string named_item(const Shot&, const std::string& list, const std::string& word);

/// Takes something out by its path. What moved with a piece stays where it is; pours of a fluid go with it.
/// Throws Fault (Blame::shot) where there is nothing of this path.
void remove_item(Shot&, const std::string& path);
/// A copy right after it, called “… 2”, that nothing belongs to and no pour comes out of; of a fluid with its
/// pours. Returns its path. Throws the same.
std::string duplicate_item(Shot&, const std::string& path);
/// Moves something up (-1) or down (1) in its list, as far as there is room. Throws the same.
void shift_item(Shot&, const std::string& path, int by);
/// Throws the same.
void rename_item(Shot&, const std::string& path, const std::string& name);
/// Lets a piece belong to another one, or to none (""), without moving it at time 0 of the shot. Throws Fault
/// (Blame::shot) where they would move with each other in a circle.
void set_parent(Shot&, const std::string& piece, const std::string& parent);

/// Moves a piece so that at frame 1 its lowest point is on the floor; so that the middle of it is over that
/// of the floor; turns it up, so that what was its front is above. Throws Fault (Blame::shot) for none, or
/// one that can't be made.
enum class Settle { floor, centre, upright };
void settle_piece(Shot&, const std::string& piece, Settle);
/// A model with several parts becomes a piece for each of them, with all that it was, in its place; one of a
/// single part a piece for each of its surfaces that hang together. Returns the paths. Throws Fault
/// (Blame::shot) where it is no model or all of a piece.
std::vector<std::string> take_apart(Shot&, const std::string& piece);
/// A piece of a part of a model (model_parts.h), where that is and moving with it. It is there to pour out of
/// or to be given a role: nothing meets it and it is not seen. Returns its path. Throws Fault (Blame::shot)
/// where there is no such part.
std::string add_part(Shot&, const std::string& piece, const std::string& part);
/// Lets a piece stand like this at a frame of the film, with keys where it is animated. Throws Fault
/// (Blame::shot) where there is no such piece.
void place_piece(Shot&, const std::string& piece, const Pose&, double film_frame);
/// Adds a pour window as far as there is room for it between the others and in the shot. Throws Fault
/// (Blame::shot) where there is none.
void add_window(Shot&, const std::string& pour, const FrameRange&);
/// Makes two of a window: one that ends where a frame of the film begins, and one that begins there.
void split_window(Shot&, const std::string& pour, size_t window, double film_frame);

/// Gives a setting a track with a key at this frame of the film. Throws Fault (Blame::shot) where it can't
/// have one.
void start_animating(Shot&, const std::string& path, double film_frame);
/// Takes the track away; the setting stays as it is at this frame.
void stop_animating(Shot&, const std::string& path, double film_frame);

}  // namespace pour
