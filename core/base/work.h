// Work that takes long can be given up.
#pragma once
#include <functional>

#include "base/error.h"

namespace pour {

/// Asked now and then by what takes long; true: give up. Empty: never.
using StopAsked = std::function<bool()>;

/// Throws GivenUp where that is wished.
inline void give_up_if(const StopAsked& stop) {
  if (stop && stop()) throw GivenUp{};
}

}  // namespace pour
