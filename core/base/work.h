// Cancellation of long work.
#pragma once
#include <functional>

#include "base/error.h"

namespace pour {

/// Polled by long work; true: stop. Empty: never stop.
using StopAsked = std::function<bool()>;

/// Throws GivenUp if it was asked to stop.
inline void give_up_if(const StopAsked& stop) {
  if (stop && stop()) throw GivenUp{};
}

}  // namespace pour
