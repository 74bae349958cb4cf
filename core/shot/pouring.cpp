#include "shot/pouring.h"

#include <algorithm>
#include <cmath>

namespace pour {

double pouring_time(const Pour& pour, double from, double to) {
  // Poured since the beginning of a window.
  const auto poured = [&](double since) {
    if (pour.pulse_period <= 0) return since;
    const double pulse = pour.pulse_share * pour.pulse_period, whole = std::floor(since / pour.pulse_period);
    return whole * pulse + std::min(since - whole * pour.pulse_period, pulse);
  };
  double sum = 0;
  for (const Span& r : pour.windows.list) {
    const double first = std::max(from, r.from), last = std::min(to, r.to);
    if (last > first) sum += poured(last - r.from) - poured(first - r.from);
  }
  return sum;
}

double rate_of(const Pour& pour) {
  if (pour.volume <= 0) return pour.rate;
  const double seconds = pour.windows.list.empty() ? 0 : pouring_time(pour, 0, pour.windows.list.back().to);
  return seconds > 0 ? pour.volume / seconds : 0;
}

}  // namespace pour
