#include "shot/fluids/liquid.h"

#include <algorithm>

#include "shot/shot.h"

namespace pour {
namespace {

constexpr Option clarities[] = {
    {"usual", "as it usually is"}, {"clear", "clear"}, {"cloudy", "cloudy"}, {"opaque", "opaque"}};
constexpr Option color_bys[] = {
    {"itself", "its own"}, {"speed", "by speed"}, {"age", "by age"}, {"depth", "by depth"}};

/// Changes the named liquid, with its colour and usual temperature. An own liquid starts with the properties
/// of the last one.
void become(Liquid& f, NamedLiquid other) {
  if (f.named == other) return;
  if (other == NamedLiquid::own) {
    f.own = matter_of(f);
  } else {
    const LiquidName& name = named_liquids()[size_t(other)];
    f.color = name.color, f.temperature = name.usual;
  }
  f.named = other;
}

bool is_own(const Liquid& f) { return f.named == NamedLiquid::own; }
bool thins_with_warmth(const Liquid& f) { return named_liquids()[size_t(f.named)].viscosity_at; }
bool has_own_look(const Liquid& f) { return f.material.id.empty(); }

template <ColorBy... by>
bool colored_by(const Liquid& f) {
  return ((f.color_by == by) || ...);
}

}  // namespace

Liquid Liquid::added() { return {.color = named_liquids()[size_t(NamedLiquid::water)].color}; }

std::string Liquid::sentence() const {
  return std::string(thins_with_warmth(*this) ? "{liquid} at {temperature} , " : "{liquid} , ") +
         thickness_in_words(matter_of(*this).viscosity) + ".";
}

Clearness clearness_of(const Liquid& f) {
  const LiquidName& name = named_liquids()[size_t(f.named)];
  if (f.clarity != Clarity::usual) return {f.clarity, f.depth, name.index};
  return {name.clarity, name.depth, name.index};
}

bool is_see_through(const Shot& shot, const Liquid& f) {
  const Material* m = shot.material(f.material.id);
  return m ? m->substance() == Substance::glass : clearness_of(f).clarity != Clarity::opaque;
}

Matter matter_of(const Liquid& f) {
  const LiquidName& name = named_liquids()[size_t(f.named)];
  if (f.named == NamedLiquid::own) return f.own;
  Matter m = name.matter;
  if (name.viscosity_at) m.viscosity = name.viscosity_at(f.temperature);
  return m;
}

Table<Liquid> Liquid::settings() {
  TableOf<Liquid> b;
  b.touching(Touches::flow)
      .add<Choice>(
          "liquid", "Liquid", "Named liquid. It sets density, viscosity, surface tension and colour.",
          [](const Liquid& f) { return Choice{int(f.named)}; },
          [](Liquid& f, const Choice& c) { become(f, NamedLiquid(c.index)); })
      .words(liquid_options())
      .fixed()
      .add(&Liquid::temperature, "temperature", "Temperature", Unit::warmth, {-50, 300, 0, 100},
           "Temperature of the liquid. Warm liquid is less viscous and flows more easily.")
      .where(thins_with_warmth)
      .more()
      .add(&Liquid::color, "color", "Colour", "Colour of the liquid.")
      .where([](const Liquid& f) { return has_own_look(f) || f.color_by != ColorBy::itself; })
      .add<double>(
          "density", "Density", Unit::mass_density, {1, 30000, 500, 2000},
          "Mass per cubic metre: water 998 kg/m³, olive oil 911, honey 1420. Heavier liquids splash with "
          "more force.",
          [](const Liquid& f) { return f.own.density; },
          [](Liquid& f, const double& v) { f.own.density = v; })
      .where(is_own)
      .add<double>(
          "viscosity", "Viscosity", Unit::viscosity, {0, 1e5, 0, 20},
          "Viscosity: resistance to flowing. Water has 1 mPa·s, olive oil 84 mPa·s, honey 10 Pa·s.",
          [](const Liquid& f) { return f.own.viscosity; },
          [](Liquid& f, const double& v) { f.own.viscosity = v; })
      .where(is_own)
      .add<double>(
          "yield", "Yield stress", Unit::pressure, {0, 1e6, 0, 50},
          "Yield stress: below it the liquid stands like a solid. Ketchup has 25 Pa, water 0.",
          [](const Liquid& f) { return f.own.yield; }, [](Liquid& f, const double& v) { f.own.yield = v; })
      .where(is_own)
      .more()
      .add<double>(
          "exponent", "Flow exponent", Unit::none, {0.05, 2, 0.1, 1},
          "Flow exponent (Herschel–Bulkley). 1 keeps the viscosity constant; lower values make the liquid "
          "thinner when stirred.",
          [](const Liquid& f) { return f.own.exponent; },
          [](Liquid& f, const double& v) { f.own.exponent = v; })
      .where(is_own)
      .more()
      .add<double>(
          "tension", "Surface tension", Unit::tension, {0, 1, 0, 0.1},
          "Surface tension: pulls the liquid together into drops. Water has 73 mN/m, oil 32.",
          [](const Liquid& f) { return f.own.tension; },
          [](Liquid& f, const double& v) { f.own.tension = v; })
      .where(is_own)
      .add(&Liquid::longest_life, "lifetime", "Lifetime", Unit::time, {0, 1e5, 0, 20},
           "Age at which poured liquid is removed.")
      .formerly("longest_life")
      .zero_holding("for ever")
      .more()
      .add(&Liquid::liveliness, "liveliness", "Liveliness", Unit::percent, {0, 1, 0, 1},
           "Keeps fine motion that the grid would smooth away. 0 % flows calmly, 100 % splashes wildly.")
      .more();
  b.add(&Liquid::opens, "opens", "Opens",
        "Lets the liquid open hollow where forces pull it apart. Otherwise it resists, as a liquid does "
        "that no air can enter.")
      .fixed()
      .more();
  b.add(&Liquid::mixes_in, "mixing_time", "Mixing time", Unit::time, {0, 1e5, 0, 10},
        "Time in which half the colour difference to a touching liquid disappears. Shorter times blend "
        "faster.")
      .formerly("mixes_in")
      .zero_holding("never")
      .in_shot([](const Shot& shot, const Liquid&) {
        return shot.fluids.size() > 1 || std::any_of(shot.pours.begin(), shot.pours.end(), [](const Pour& p) {
                 return p.colors != PourColors::fluid;
               });
      })
      .more();
  b.touching(Touches::picture)
      .add(&Liquid::material, "material", "Material",
           "Gives the liquid the look of a material, for example chrome or glass. Without one it looks "
           "like itself.")
      .fixed()
      .more()
      .add(&Liquid::clarity, clarities, "clarity", "Clarity",
           "Clear liquids let light straight through, cloudy ones scatter it inside, opaque ones reflect "
           "it at the surface.")
      .traced()
      .where(has_own_look)
      .more()
      .add(&Liquid::depth, "depth", "Depth", Unit::length, {1e-5, 100, 1e-4, 0.1},
           "Thickness at which a clear liquid shows its full colour. In a cloudy one, the distance light "
           "travels before it is scattered.")
      .where([](const Liquid& f) {
        return has_own_look(f) && (f.clarity == Clarity::clear || f.clarity == Clarity::cloudy);
      })
      .more()
      .add(&Liquid::color_by, color_bys, "color_by", "Coloured by",
           "Colours the liquid evenly, or blends to a second colour by its speed, age or thickness.")
      .more()
      .add(&Liquid::far_color, "second_color", "Second colour",
           "Second colour, reached where the liquid is fast, old or thick.")
      .formerly("far_color")
      .where(colored_by<ColorBy::speed, ColorBy::age, ColorBy::depth>)
      .more()
      .add(&Liquid::far_speed, "full_speed", "Full speed", Unit::speed, {1e-4, 1000, 0.05, 5},
           "Speed at which the liquid has fully taken the second colour.")
      .formerly("far_speed")
      .where(colored_by<ColorBy::speed>)
      .more()
      .add(&Liquid::far_age, "full_age", "Full age", Unit::time, {1e-3, 1e5, 0.1, 10},
           "Age at which the liquid has fully taken the second colour.")
      .formerly("far_age")
      .where(colored_by<ColorBy::age>)
      .more()
      .add(&Liquid::far_depth, "full_thickness", "Full thickness", Unit::length, {1e-4, 100, 0.002, 0.1},
           "Thickness at which the liquid has fully taken the second colour, measured as the largest ball "
           "that fits inside.")
      .formerly("far_depth")
      .where(colored_by<ColorBy::depth>)
      .more()
      .add(&Liquid::bubbles, "bubbles", "Bubbles", Unit::percent, {0, 0.2, 0, 0.05},
           "Share of the volume taken by air bubbles that drift with the liquid.")
      .traced()
      .zero("none")
      .in_shot(is_see_through)
      .more()
      .add(&Liquid::bubble_size, "bubble_size", "Bubble size", Unit::length, {1e-4, 0.1, 5e-4, 0.01},
           "Diameter of the largest bubbles. The smallest are a third as wide.")
      .where([](const Liquid& f) { return f.bubbles > 0; })
      .in_shot(is_see_through)
      .more();
  return b.done();
}

}  // namespace pour
