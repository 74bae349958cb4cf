#include "shot/liquids.h"
#include "base/text.h"

#include <array>
#include <cmath>
#include <vector>

namespace pour {
namespace {

/// Water between 0 and 100 °C within 2.5 % (Vogel's law with the constants of Al-Shemmeri, Engineering Fluid
/// Mechanics, 2012; from memory).
double water_viscosity(double celsius) { return 2.414e-5 * std::pow(10, 247.8 / (celsius + 133.15)); }

/// Glycerine between 0 and 100 °C (Cheng, Ind. Eng. Chem. Res. 47, 2008; from memory).
double glycerine_viscosity(double t) { return 12.1 * std::exp((t - 1233) * t / (9900 + 70 * t)); }

constexpr const char* handbook = "CRC Handbook of Chemistry and Physics, from memory";
constexpr const char* typical = "typical, from memory";

}  // namespace

std::span<const LiquidName> named_liquids() {
  static const std::array all{
      LiquidName{{"water", "Water"},
                 {998.2, 1.002e-3, 0, 1, 0.0728},
                 20,
                 1.333,
                 {0.72, 0.83, 0.88},
                 handbook,
                 Clarity::clear,
                 0.3,
                 water_viscosity},
      LiquidName{{"tea", "Sparkling tea"},
                 {1002, 1.1e-3, 0, 1, 0.06},
                 20,
                 1.334,
                 {0.5, 0.16, 0.025},
                 typical,
                 Clarity::clear,
                 0.06},
      // Depth of milk: its reduced scattering is 2.6 to 3.8 per mm (Jensen, Marschner, Levoy & Hanrahan 2001,
      // from memory); of the others by it.
      LiquidName{{"milk", "Milk"},
                 {1030, 2.0e-3, 0, 1, 0.047},
                 20,
                 1.345,
                 {0.9, 0.88, 0.82},
                 typical,
                 Clarity::cloudy,
                 0.0003},
      LiquidName{{"oat_milk", "Oat milk"},
                 {1030, 6e-3, 0, 1, 0.045},
                 20,
                 1.345,
                 {0.82, 0.74, 0.6},
                 typical,
                 Clarity::cloudy,
                 0.0004},
      LiquidName{{"coffee", "Coffee"},
                 {1002, 1.1e-3, 0, 1, 0.055},
                 20,
                 1.335,
                 {0.06, 0.025, 0.012},
                 typical,
                 Clarity::clear,
                 0.03},
      LiquidName{{"wine", "Wine"},
                 {990, 1.6e-3, 0, 1, 0.05},
                 20,
                 1.343,
                 {0.25, 0.01, 0.03},
                 typical,
                 Clarity::clear,
                 0.03},
      LiquidName{{"oil", "Oil"},
                 {911, 0.084, 0, 1, 0.032},
                 20,
                 1.467,
                 {0.75, 0.5, 0.06},
                 "olive oil: CRC Handbook of Chemistry and Physics, from memory",
                 Clarity::clear,
                 0.05},
      LiquidName{{"cream", "Cream"},
                 {995, 0.05, 0, 1, 0.04},
                 20,
                 1.36,
                 {0.92, 0.87, 0.76},
                 typical,
                 Clarity::cloudy,
                 0.00025},
      LiquidName{{"honey", "Honey"},
                 {1420, 10, 0, 1, 0.06},
                 20,
                 1.49,
                 {0.72, 0.33, 0.03},
                 typical,
                 Clarity::clear,
                 0.025},
      LiquidName{{"syrup", "Pear syrup"},
                 {1330, 5, 0, 1, 0.075},
                 20,
                 1.48,
                 {0.42, 0.15, 0.02},
                 typical,
                 Clarity::clear,
                 0.025},
      LiquidName{{"ketchup", "Ketchup"},
                 {1140, 14, 25, 0.28, 0.05},
                 20,
                 1.4,
                 {0.55, 0.03, 0.01},
                 typical,
                 Clarity::opaque},
      LiquidName{{"yoghurt", "Yoghurt"},
                 {1040, 3.5, 8, 0.5, 0.045},
                 20,
                 1.36,
                 {0.92, 0.9, 0.84},
                 typical,
                 Clarity::cloudy,
                 0.00025},
      LiquidName{{"chocolate", "Molten chocolate"},
                 {1270, 2.5, 8, 1, 0.03},
                 40,
                 1.5,
                 {0.1, 0.035, 0.012},
                 typical,
                 Clarity::opaque},
      LiquidName{{"caramel", "Caramel"},
                 {1350, 9, 0, 1, 0.05},
                 60,
                 1.49,
                 {0.33, 0.1, 0.018},
                 typical,
                 Clarity::cloudy,
                 0.0012},
      LiquidName{
          {"paint", "Paint"}, {1300, 3, 4, 0.6, 0.035}, 20, 1.5, {0.1, 0.3, 0.55}, typical, Clarity::opaque},
      LiquidName{{"glycerine", "Glycerine"},
                 {1261, 1.414, 0, 1, 0.0634},
                 20,
                 1.473,
                 {0.86, 0.88, 0.86},
                 handbook,
                 Clarity::clear,
                 0.1,
                 glycerine_viscosity},
      LiquidName{{"shampoo", "Shampoo"},
                 {1020, 3, 0, 1, 0.03},
                 20,
                 1.36,
                 {0.75, 0.5, 0.1},
                 typical,
                 Clarity::clear,
                 0.05},
      LiquidName{{"own", "A liquid of its own"},
                 {},
                 20,
                 1.333,
                 {0.72, 0.83, 0.88},
                 "as it is set",
                 Clarity::clear,
                 0.02}};
  return all;
}

std::span<const Option> liquid_options() {
  static const std::vector<Option> all = [] {
    std::vector<Option> out;
    for (const LiquidName& l : named_liquids()) out.push_back(l.option);
    return out;
  }();
  return all;
}

std::string thickness_in_words(double viscosity) {
  // The thickest of those that everybody knows and that is no thicker.
  const LiquidName* like = nullptr;
  for (const NamedLiquid n : {NamedLiquid::water, NamedLiquid::oil, NamedLiquid::honey})
    if (const LiquidName& l = named_liquids()[size_t(n)]; !like || l.matter.viscosity <= 1.25 * viscosity)
      like = &l;
  const double times = viscosity / like->matter.viscosity;
  std::string name = like->option.label;
  name.front() = char(std::tolower(static_cast<unsigned char>(name.front())));
  if (times > 0.8 && times < 1.25) return filled("as thick as {name}", {{"name", name}});
  return filled("{times} times as thick as {name}",
                {{"times", format_quantity(times, Unit::none, 2)}, {"name", name}});
}

}  // namespace pour
