// Air as it is around everything: 20 °C and 1 bar; VDI-Wärmeatlas, from memory.
#pragma once

namespace pour::air {

inline constexpr double density = 1.2;         // kg/m³
inline constexpr double temperature = 293.15;  // K

}  // namespace pour::air
