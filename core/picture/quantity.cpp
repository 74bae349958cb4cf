#include "picture/quantity.h"

#include <cmath>

#include "base/parallel.h"

namespace pour {

Color ramp(double value) {
  // Linear light; made for this program.
  static constexpr Color stops[] = {{0.018, 0.030, 0.120},
                                    {0.012, 0.150, 0.240},
                                    {0.030, 0.330, 0.260},
                                    {0.280, 0.560, 0.180},
                                    {0.900, 0.800, 0.150}};
  constexpr int last = int(std::size(stops)) - 1;
  const double at = std::clamp(value, 0.0, 1.0) * last;
  const int i = std::min(int(at), last - 1);
  const double t = at - i;
  const auto mix = [&](double a, double b) { return a + (b - a) * t; };
  return {mix(stops[i].r, stops[i + 1].r), mix(stops[i].g, stops[i + 1].g), mix(stops[i].b, stops[i + 1].b)};
}

Color color_of_number(int number) {
  // Linear light; made for this program, and apart in lightness too.
  static constexpr Color all[] = {{0.030, 0.330, 0.420}, {0.900, 0.400, 0.060}, {0.330, 0.060, 0.300},
                                  {0.720, 0.780, 0.520}, {0.420, 0.030, 0.040}, {0.060, 0.140, 0.050}};
  return all[size_t(number) % std::size(all)];
}

LitFrame coloured_frame(std::vector<SmokeVolume> frame, Quantity quantity, const Look& look,
                        const SmokeWalls& walls, double time, double& most) {
  if (!quantity_names[int(quantity)].of_smoke) return {};
  const auto values_of = [&](const SmokeVolume& v) -> const std::vector<float>& {
    return quantity == Quantity::speed ? v.speed : quantity == Quantity::warmth ? v.warmth : v.density;
  };
  float densest = 0, highest = float(most);
  for (const SmokeVolume& v : frame)
    if (!v.density.empty())
      densest = std::max(densest, *std::max_element(v.density.begin(), v.density.end()));
  for (const SmokeVolume& v : frame)
    for (size_t i = 0; i < values_of(v).size(); ++i)
      if (v.density[i] > 0.01f * densest) highest = std::max(highest, values_of(v)[i]);
  most = double(highest);
  LitFrame out;
  for (SmokeVolume& v : frame) {
    const std::vector<float>& values = values_of(v);
    parallel_for(values.size() / 256 + 1, [&](size_t chunk) {
      for (size_t i = chunk * 256; i < std::min(values.size(), (chunk + 1) * 256); ++i) {
        const Color c = ramp(highest > 0 ? double(values[i] / highest) : 0);
        v.color[3 * i] = float(c.r), v.color[3 * i + 1] = float(c.g), v.color[3 * i + 2] = float(c.b);
      }
    });
    out.push_back(glowing_smoke(std::move(v), look, walls, time));
  }
  return out;
}

Look plain_look(const Look& like) {
  Look l;
  l.thickness = like.thickness;
  l.floor = false, l.halo = 0, l.glass = 0.25, l.backdrop_color = {0.03, 0.032, 0.032}, l.exposure = 0.8;
  l.lights = light_sets()[0].make();
  for (Light& light : l.lights) light.color = {1, 1, 1}, light.strength = 2;
  return l;
}

}  // namespace pour
