#include "run/march.h"

#include <cmath>

#include "run/staging.h"

namespace pour {

bool march(double& time, double end, const Stepper& stepper, const Staging& staging, const std::string& where,
           const StopAsked& stop) {
  while (time < end - 1e-9) {
    if (stop && stop()) return false;
    const double from = time, rest = end - from, longest = stepper.longest(from, end);
    if (!(rest / longest <= most_steps)) throw too_fast(where);
    const double followed = stepper.meets_pieces ? staging.longest_step(from, longest) : longest;
    const double steps = std::ceil(rest / followed - 1e-6);
    if (!(steps <= most_steps)) throw piece_too_fast(where);
    const double to = steps <= 1 ? end : from + rest / steps;
    stepper.step(from, to);
  }
  time = end;
  return true;
}

}  // namespace pour
