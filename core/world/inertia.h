// Fictitious forces in a moving frame of reference.
#pragma once
#include "world/world.h"

namespace pour {

/// Effective gravity pull(p) = pull + pull_by_place · p acts as buoyancy. push(p) = push_by_place · p and -2
/// spin × v act on all fluid (Landau & Lifshitz, Mechanics, § 39; from memory).
struct Inertia {
  Vec3d pull;                             // at the room's origin, m/s²
  Rotation pull_by_place, push_by_place;  // 1/s²
  Vec3d spin;                             // rad/s
};

Inertia inertia_of(const Room&, double gravity);
/// The strongest pull anywhere in a room, m/s².
double most_pull(const Room&, double gravity);

}  // namespace pour
