// What lights a set: soft boxes, discs and the sun far away, spots near it, and the room around it.
#pragma once
#include <numbers>
#include <span>
#include <string>
#include <vector>

#include "shot/setting.h"
#include "shot/track.h"

namespace pour {

enum class LightKind { soft_box, disc, sun, spot, room };
/// What a room looks like to those who stand in it.
enum class RoomStyle { even, strips, window, picture };

struct Light {
  std::string id, name;
  LightKind kind = LightKind::soft_box;
  double strength = 1;     // of what a surface that faces it gets, of that of a usual key light
  Color color{1, 1, 1};    // beside its temperature
  double temperature = 0;  // K, of a black body; 0: as its colour says
  // Where those far away stand, and how a room is turned, rad.
  double yaw = 0, pitch = 40 * std::numbers::pi / 180;
  double width = 50 * std::numbers::pi / 180, height = 38 * std::numbers::pi / 180;  // seen from the set
  // A spot: where it stands, and what it aims at; there it is as strong as it says.
  Vec3d position{0.5, 0.8, 0.6}, aim{0, 0.1, 0};  // m
  double cone = 50 * std::numbers::pi / 180;      // of its light
  double size = 0.04;                             // of its bulb, m
  RoomStyle room = RoomStyle::even;
  PictureFile picture;  // all round, where room == picture: as wide as 360°, as high as 180°
  Links shines_on;      // pieces and fluids
  Tracks tracks;
  bool operator==(const Light&) const = default;
};

/// Its colour with that of its temperature, as bright as the colour alone (ITU-R BT.709 luminance).
Color color_of(const Light&);
/// Of a black body, against that of daylight at 6500 K (D65), which is the white of pictures; luminance 1.
/// Method: Planck's law under the colour matching functions of CIE 1931 as fitted by Wyman, Sloan & Shirley
/// ("Simple analytic approximations to the CIE XYZ color matching functions", 2013).
Color black_body(double kelvin);
/// The same as chromaticity x and y of CIE 1931.
std::pair<double, double> black_body_chromaticity(double kelvin);

/// Lights that stand together.
struct LightSet {
  Option option;
  const char* help;
  std::vector<Light> (*make)();
};
/// The first is what a new shot has.
std::span<const LightSet> light_sets();
std::span<const Option> light_kinds();

}  // namespace pour
