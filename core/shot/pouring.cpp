#include "shot/pouring.h"

#include <algorithm>
#include <cmath>

namespace pour {

double pouring_frames(const Pour& pour, double from, double to) {
  // Frames poured since the beginning of a window.
  const auto poured = [&](double since) {
    if (pour.pulse_period <= 0) return since;
    const double pulse = pour.pulse_share * pour.pulse_period, whole = std::floor(since / pour.pulse_period);
    return whole * pulse + std::min(since - whole * pour.pulse_period, pulse);
  };
  double sum = 0;
  for (const FrameRange& r : pour.windows.list) {
    const double first = std::max(from, double(r.first)), last = std::min(to, r.last + 1.0);
    if (last > first) sum += poured(last - r.first) - poured(first - r.first);
  }
  return sum;
}

double rate_of(const Clock& clock, const Pour& pour) {
  if (pour.volume <= 0) return pour.rate;
  double end = 1;
  for (const FrameRange& r : pour.windows.list) end = std::max(end, r.last + 1.0);
  const double seconds = clock.time_of_shot_frame(1 + pouring_frames(pour, 1, end));
  return seconds > 0 ? pour.volume / seconds : 0;
}

}  // namespace pour
