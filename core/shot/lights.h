// Lights of a set: distant soft boxes, round lights and the sun, spots near the set, and the room around it.
#pragma once
#include <numbers>
#include <span>
#include <string>
#include <vector>

#include "shot/setting.h"
#include "shot/track.h"

namespace pour {

enum class LightKind { soft_box, disc, sun, spot, room };
/// What reflections show of a room.
enum class RoomStyle { even, strips, window, picture };

struct Light {
  std::string id, name;
  LightKind kind = LightKind::soft_box;
  double strength = 1;     // irradiance of a facing surface, relative to a usual key light
  Color color{1, 1, 1};    // multiplied by its temperature's
  double temperature = 0;  // K, of a black body; 0: its colour alone
  // Direction of distant lights, and rotation of a room, rad.
  double azimuth = 0, elevation = 40 * std::numbers::pi / 180;
  double width = 50 * std::numbers::pi / 180, height = 38 * std::numbers::pi / 180;  // angular size, rad
  // Of a spot: its place and the point where it has its stated strength.
  Vec3d position{0.5, 0.8, 0.6}, aim{0, 0.1, 0};  // m
  double cone = 50 * std::numbers::pi / 180;      // opening angle, rad
  double size = 0.04;                             // diameter of the bulb, m
  RoomStyle room = RoomStyle::even;
  PictureFile picture;  // panorama, where room == picture: 360° wide, 180° high
  Links shines_on;      // pieces and fluids
  Tracks tracks;
  bool operator==(const Light&) const = default;
};

/// Colour times the colour of its temperature, at the luminance of the colour alone (ITU-R BT.709).
Color color_of(const Light&);
/// Colour of a black body relative to 6500 K, the white of pictures; luminance 1.
/// Method: Planck's law under the colour matching functions of CIE 1931 as fitted by Wyman, Sloan & Shirley
/// ("Simple analytic approximations to the CIE XYZ color matching functions", 2013).
Color black_body(double kelvin);
/// Chromaticity x and y of a black body, CIE 1931.
std::pair<double, double> black_body_chromaticity(double kelvin);

/// A ready-made set of lights.
struct LightSet {
  Option option;
  const char* help;
  std::vector<Light> (*make)();
};
/// The first is that of a new shot.
std::span<const LightSet> light_sets();
std::span<const Option> light_kinds();

}  // namespace pour
