#include "picture/smoke_look.h"

#include "base/parallel.h"

namespace pour {

bool needs_warmth(const Look& l) {
  return l.smoke_color_by == SmokeBy::heat || (l.shine > 0 && l.shine_by == SmokeBy::heat);
}

float part_by(SmokeBy by, float dense, float warm, float even) {
  return by == SmokeBy::itself ? even : std::clamp(by == SmokeBy::density ? dense : warm, 0.f, 1.f);
}

void color_smoke(SmokeVolume& smoke, const Look& look) {
  if (look.smoke_color_by == SmokeBy::itself) return;
  const float far[3] = {float(look.smoke_far_color.r), float(look.smoke_far_color.g),
                        float(look.smoke_far_color.b)};
  const size_t n = smoke.density.size();
  parallel_for(n / 4096 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 4096; i < std::min(n, (chunk + 1) * 4096); ++i) {
      const float warmth = smoke.warmth.empty() ? 0 : smoke.warmth[i];
      const float t = part_by(look.smoke_color_by, smoke.density[i] / float(look.far_density),
                              warmth / float(look.far_heat), 0);
      for (size_t c = 0; c < 3; ++c) smoke.color[3 * i + c] += t * (far[c] - smoke.color[3 * i + c]);
    }
  });
}

}  // namespace pour
