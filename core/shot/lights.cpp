#include "shot/lights.h"

#include <array>
#include <cmath>

#include "shot/shot.h"

namespace pour {
namespace {

constexpr Option kinds_of_light[] = {{"soft_box", "A soft box"},
                                     {"disc", "A round light"},
                                     {"sun", "The sun"},
                                     {"spot", "A spot"},
                                     {"room", "The room"}};
constexpr Option rooms[] = {{"even", "even, brighter above"},
                            {"strips", "strip lights on both sides and above"},
                            {"window", "a window to the left"},
                            {"picture", "a picture all round"}};

template <LightKind... kinds>
bool is(const Light& l) {
  return ((l.kind == kinds) || ...);
}

constexpr double white_light = 6500;  // K, at which a black body has no tint here

double luminance(const Color& c) { return 0.2126 * c.r + 0.7152 * c.g + 0.0722 * c.b; }

/// X, Y and Z of a black body, each by the same factor.
Vec3d tristimulus(double kelvin) {
  const auto lobe = [](double l, double middle, double below, double above) {
    const double t = (l - middle) / (l < middle ? below : above);
    return std::exp(-0.5 * t * t);
  };
  Vec3d sum;
  for (double l = 380; l <= 780; l += 2) {  // nm
    const double m = l * 1e-9, energy = std::pow(m, -5) / std::expm1(1.438776877e-2 / (m * kelvin)) * 1e-30;
    sum.x += energy * (1.056 * lobe(l, 599.8, 37.9, 31.0) + 0.362 * lobe(l, 442.0, 16.0, 26.7) -
                       0.065 * lobe(l, 501.1, 20.4, 26.2));
    sum.y += energy * (0.821 * lobe(l, 568.8, 46.9, 40.5) + 0.286 * lobe(l, 530.9, 16.3, 31.1));
    sum.z += energy * (1.217 * lobe(l, 437.0, 11.8, 36.0) + 0.681 * lobe(l, 459.0, 26.0, 13.8));
  }
  return sum;
}

Light light(const char* id, const char* name, LightKind kind, double strength, const Color& color) {
  Light l;
  l.id = id, l.name = name, l.kind = kind, l.strength = strength, l.color = color;
  return l;
}

Light placed(Light l, double azimuth, double elevation, double width, double height) {
  l.azimuth = azimuth * degree, l.elevation = elevation * degree, l.width = width * degree,
  l.height = height * degree;
  return l;
}

Light room_of(Light l, RoomStyle style) {
  l.room = style;
  return l;
}

std::vector<Light> for_lettering() {
  using enum LightKind;
  const Color warm{1, 0.94, 0.86};
  return {placed(light("key", "Key light", soft_box, 0.65, warm), -49, 40, 50, 38.6),
          placed(light("rim", "Rim light", soft_box, 1.2, {0.75, 0.9, 1}), 138, 29, 14.8, 36),
          light("room", "Room", room, 0.078, warm)};
}

std::vector<Light> for_products() {
  using enum LightKind;
  return {placed(light("key", "Large soft box", soft_box, 0.6, {1, 0.97, 0.93}), -55, 35, 76, 60),
          placed(light("edge", "Strip behind, right", soft_box, 1, {1, 1, 1}), 130, 20, 14, 70),
          placed(light("other_edge", "Strip behind, left", soft_box, 0.6, {0.9, 0.95, 1}), -140, 25, 12, 60),
          room_of(light("room", "Room", room, 0.12, {1, 1, 1}), RoomStyle::strips)};
}

std::vector<Light> for_liquids() {
  using enum LightKind;
  return {placed(light("behind", "Large light behind", soft_box, 0.3, {1, 0.98, 0.95}), 172, 24, 80, 50),
          placed(light("top", "Light from above", soft_box, 0.5, {1, 0.97, 0.92}), -30, 72, 50, 50),
          placed(light("edge", "Strip at the side", soft_box, 0.7, {0.92, 0.96, 1}), 82, 25, 12, 60),
          light("room", "Room", room, 0.07, {1, 1, 1})};
}

}  // namespace

std::pair<double, double> black_body_chromaticity(double kelvin) {
  const Vec3d v = tristimulus(kelvin);
  const double sum = v.x + v.y + v.z;
  return {v.x / sum, v.y / sum};
}

Color black_body(double kelvin) {
  const auto rgb = [](double t) {
    const Vec3d v = tristimulus(t) / tristimulus(t).y;
    // XYZ to linear Rec. 709 (IEC 61966-2-1).
    return Vec3d{3.2406 * v.x - 1.5372 * v.y - 0.4986 * v.z, -0.9689 * v.x + 1.8758 * v.y + 0.0415 * v.z,
                 0.0557 * v.x - 0.2040 * v.y + 1.0570 * v.z};
  };
  static const Vec3d white = rgb(white_light);
  const Vec3d v = rgb(kelvin);
  Color c{std::max(0.0, v.x / white.x), std::max(0.0, v.y / white.y), std::max(0.0, v.z / white.z)};
  const double y = luminance(c);
  return {c.r / y, c.g / y, c.b / y};
}

Color color_of(const Light& l) {
  if (l.temperature <= 0) return l.color;
  const Color b = black_body(l.temperature);
  Color c{l.color.r * b.r, l.color.g * b.g, l.color.b * b.b};
  const double k = luminance(l.color) / std::max(1e-9, luminance(c));
  return {c.r * k, c.g * k, c.b * k};
}

std::span<const Option> light_kinds() { return kinds_of_light; }

std::span<const LightSet> light_sets() {
  static const std::array all{
      LightSet{{"lettering", "For lettering"}, "A soft key light and a strip from behind.", for_lettering},
      LightSet{{"product", "For products"},
               "A large soft box, two strips that draw the edges, and a room that glass and metal mirror.",
               for_products},
      LightSet{{"liquid", "For liquids"},
               "A large light behind, so that liquid glows, one from above and a strip at the side.",
               for_liquids}};
  return all;
}

template <>
const Table<Light>& table() {
  static const Table<Light> rows = [] {
    using enum LightKind;
    TableOf<Light> b;
    b.touching(Touches::name).add(&Light::name, "name", "Name", "Name of the light.");
    b.touching(Touches::light)
        .add(&Light::kind, kinds_of_light, "kind", "Kind",
             "Type of light: a distant soft box or round light, the sun, a spot near the set, or the room "
             "all around.")
        .fixed()
        .add(&Light::strength, "strength", "Strength", Unit::percent, {0, 100, 0, 3},
             "Brightness on surfaces that face the light. For a spot, at the point it aims at.")
        .add(&Light::color, "color", "Colour",
             "Filter colour of the light, on top of its colour temperature.")
        .add(&Light::temperature, "temperature", "Temperature", Unit::kelvin, {1000, 40000, 1500, 12000},
             "Colour temperature. Lower is warmer: a lamp has 2700 K, the sun at noon 5600 K, neutral white "
             "6500 K.")
        .zero("by its colour", [](const Shot&, const Light&) { return white_light; })
        .more()
        .add(&Light::azimuth, "azimuth", "Azimuth", Unit::angle,
             {-360 * degree, 360 * degree, -180 * degree, 180 * degree},
             "Direction of the light around the set: 0° in front, 90° on the right, 180° behind. It turns a "
             "room.")
        .formerly("yaw")
        .where([](const Light& l) {
          return is<soft_box, disc, sun>(l) || (is<room>(l) && l.room != RoomStyle::even);
        })
        .add(&Light::elevation, "elevation", "Elevation", Unit::angle,
             {-90 * degree, 90 * degree, -20 * degree, 90 * degree},
             "Elevation of the light above the ground: 0° is level, 90° straight above.")
        .formerly("pitch")
        .where(is<soft_box, disc, sun>);
    b.touching(Touches::picture)
        .add(&Light::width, "width", "Width", Unit::angle,
             {1 * degree, 150 * degree, 10 * degree, 90 * degree},
             "Angular width of the light as seen from the set. Larger lights cast softer shadows.")
        .traced()
        .where(is<soft_box, disc>)
        .more()
        .add(&Light::height, "height", "Height", Unit::angle,
             {1 * degree, 150 * degree, 10 * degree, 90 * degree},
             "Angular height of the soft box as seen from the set. Larger lights cast softer shadows.")
        .traced()
        .where(is<soft_box>)
        .more();
    b.touching(Touches::light)
        .add(&Light::position, "position", "Position", Unit::length, {-1e4, 1e4, -1, 1},
             "Position of the spot: right, up and towards the camera.")
        .where(is<spot>)
        .add(&Light::aim, "aim", "Aim", Unit::length, {-1e4, 1e4, -1, 1},
             "Point at the centre of the light's cone. Quick pictures light everything as they light this "
             "point.")
        .where(is<spot>);
    b.touching(Touches::picture)
        .add(&Light::cone, "cone", "Cone", Unit::angle, {2 * degree, 170 * degree, 10 * degree, 90 * degree},
             "Opening angle of the spot. Its light fades towards the rim.")
        .traced()
        .where(is<spot>)
        .add(&Light::size, "size", "Bulb size", Unit::length, {1e-4, 10, 0.005, 0.3},
             "Diameter of the bulb. Smaller bulbs cast sharper shadows.")
        .traced()
        .where(is<spot>)
        .more()
        .add(&Light::room, rooms, "room", "Room",
             "What reflections show of the room: even light, strips, a window or a picture.")
        .traced()
        .where(is<room>)
        .fixed()
        .add(&Light::picture, "picture", "Picture",
             "Panorama of a room, twice as wide as high, best as HDR or EXR. It is scaled to the room's "
             "strength.")
        .where([](const Light& l) { return is<room>(l) && l.room == RoomStyle::picture; })
        .fixed()
        .add(&Light::shines_on, "shines_on", "Shines on",
             "Pieces and fluids that the light reaches. It lights the floor only when it shines on all.")
        .traced()
        .more()
        .fixed();
    return b.done();
  }();
  return rows;
}

}  // namespace pour
