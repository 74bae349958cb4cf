// What pushes the fluid. A new kind of force is a file in forces/ and its name in this list.
#pragma once
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "shot/forces/confinement.h"
#include "shot/forces/current.h"
#include "shot/forces/drag.h"
#include "shot/forces/gather.h"
#include "shot/forces/gravity.h"
#include "shot/forces/pull.h"
#include "shot/forces/swirl.h"
#include "shot/forces/turbulence.h"
#include "shot/forces/wind.h"
#include "shot/track.h"

namespace pour {

struct Shot;

using ForceKind = std::variant<Gravity, Turbulence, Confinement, Wind, Pull, Swirl, Drag, Current, Gather>;

struct Force {
  std::string id, name;
  ForceKind what;
  Links acts_on;       // fluids
  bool always = true;  // otherwise in windows
  Windows windows{{{0, 1}}};
  Dependence depends;  // a factor of its strength
  bool inside = true;  // also on what pieces hold
  // Where it acts: inside or outside of a shape with a soft edge.
  Reach::Shape reach = Reach::Shape::everywhere;
  bool reach_outside = false;
  PieceId reach_piece;                                                  // whose body it is
  Vec3d reach_position{0, 0.12, 0}, reach_turn;                         // m, rad
  Vec3d reach_size{0.1, 0.1, 0.1};                                      // of a box, m
  double reach_radius = 0.1, reach_thickness = 0.05, soft_edge = 0.02;  // m
  double edge_profile = 1;                                              // exponent of the soft edge
  Tracks tracks;
  bool operator==(const Force&) const = default;

  template <class Kind>
  const Kind* as() const {
    return std::get_if<Kind>(&what);
  }
};

/// Key and name of each kind, by its index in ForceKind.
std::span<const Option> force_kinds();
/// A new force of this kind, named after it.
Force new_force(int kind);
/// Whether it moves liquids; all move smoke.
bool moves_liquid(const Force&);
/// The forces of a new shot: gravity, turbulence and vorticity confinement.
std::vector<Force> usual_forces();

/// How much of a time span a force acts in, 0 to 1; of a moment, whether it acts.
double share_of_time(const Force&, double from, double to);
/// Whether it acts on a fluid: smoke as a whole, or one liquid.
bool acts_on_smoke(const Shot&, const Force&);
bool acts_on(const Force&, const std::string& fluid);
/// Whether it acts on all that flows, everywhere and within vessels.
bool acts_on_all(const Force&);
/// What it does, now; null for turbulence and confinement, which are part of the solver of gas.
std::shared_ptr<const Field> field_of(const Force&, const SetAround&);
/// How it shares liquid among the parts of its target, under this number; null if it does not.
std::shared_ptr<const Sharing> sharing_of(const Force&, const SetAround&, int number);
/// The pieces that it goes by: a target, or the bounds of its reach.
std::vector<PieceId> pieces_of(const Force&);
/// Lets it do without pieces; false if it cannot.
bool go_without(Force&);
/// The direction in which it points, and a place on its axis or its centre; null for none.
Vec3d* direction_of(Force&);
Vec3d* place_of(Force&);
/// Its curve, if it has one, once for each copy.
std::vector<Curve> curves_of(const Force&);
/// Divides its strength or its speeds.
void weaken(Force&, double by);
/// Where it acts and by what, now.
Strength strength_of(const Force&, const SetAround& set);

/// Downward acceleration of all gravity, m/s².
double gravity_of(const std::vector<Force>&);
/// The first force of a kind, added if there is none.
template <class Kind>
Kind& first_of(std::vector<Force>& forces) {
  for (Force& f : forces)
    if (auto* kind = std::get_if<Kind>(&f.what)) return *kind;
  return std::get<Kind>(forces.emplace_back(new_force(int(ForceKind(Kind()).index()))).what);
}

/// The path of a setting that was called so when forces were one group, before version 10; otherwise "".
std::string force_path_now(const std::string& path);

}  // namespace pour
