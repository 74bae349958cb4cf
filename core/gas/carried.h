// What gas carries along: the only list of it.
#pragma once
#include <array>
#include <iterator>

#include "gas/gas.h"

namespace pour {

enum class Carriage {
  amount,  // kg/m³: its mass is kept and booked
  part,    // of the amount: moves as that does
  warmth,  // K above the air
};

/// A field of values at cell centres.
struct Carried {
  Floats GasState::*values;
  Carriage how;
  double GasWorld::*half_life;  // s; 0: for ever
  bool is_smoke() const { return how != Carriage::warmth; }
};

/// An amount stands before its parts. Checkpoints keep them in this order.
inline constexpr Carried carried[] = {
    {&GasState::density, Carriage::amount, &GasWorld::density_half_life},
    {&GasState::heat, Carriage::warmth, &GasWorld::heat_half_life},
    {&GasState::red, Carriage::part, &GasWorld::density_half_life},
    {&GasState::green, Carriage::part, &GasWorld::density_half_life},
    {&GasState::blue, Carriage::part, &GasWorld::density_half_life},
};

/// All fields of a state, as they are stored: velocity, what is carried, pressure.
inline std::array<Floats*, std::size(carried) + 4> fields_of(GasState& s) {
  std::array<Floats*, std::size(carried) + 4> out{&s.u, &s.v, &s.w};
  for (size_t i = 0; i < std::size(carried); ++i) out[3 + i] = &(s.*carried[i].values);
  out.back() = &s.pressure;
  return out;
}

}  // namespace pour
