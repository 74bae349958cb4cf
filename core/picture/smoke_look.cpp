#include "picture/smoke_look.h"

#include "base/parallel.h"

namespace pour {

bool needs_warmth(const Look& l) {
  return l.smoke_color_by == SmokeBy::heat || (l.shine > 0 && l.shine_by == SmokeBy::heat);
}

float part_by(SmokeBy by, const Look& look, float density, float warmth, float even) {
  if (by == SmokeBy::itself) return even;
  const double part =
      by == SmokeBy::density ? double(density) / look.far_density : double(warmth) / look.far_heat;
  return float(std::clamp(part, 0.0, 1.0));
}

void color_smoke(SmokeVolume& smoke, const Look& look) {
  if (look.smoke_color_by == SmokeBy::itself) return;
  const float far[3] = {float(look.smoke_far_color.r), float(look.smoke_far_color.g),
                        float(look.smoke_far_color.b)};
  const size_t n = smoke.density.size();
  parallel_for(n / 4096 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 4096; i < std::min(n, (chunk + 1) * 4096); ++i) {
      const float warmth = smoke.warmth.empty() ? 0 : smoke.warmth[i];
      const float t = part_by(look.smoke_color_by, look, smoke.density[i], warmth, 0);
      for (size_t c = 0; c < 3; ++c) smoke.color[3 * i + c] += t * (far[c] - smoke.color[3 * i + c]);
    }
  });
}

}  // namespace pour
