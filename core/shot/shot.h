// The document: one shot as a plain value. SI units, y up, the set stands on y = 0.
//
// Copying is cheap and undo is the previous value. What each member means, its range and its unit
// stand once, in describe.cpp; JSON, the recipe column, the command line, the comparison of runs and
// docs/settings.md all walk that description.
#pragma once
#include <numbers>
#include <string>
#include <utility>
#include <vector>

#include "base/vec.h"

namespace pour {

inline constexpr double degree = std::numbers::pi / 180;  // rad

struct Color {
  double r = 1, g = 1, b = 1;  // linear Rec. 709
  bool operator==(const Color&) const = default;
};

/// Frames first..last, both included; frames count from 1.
struct FrameRange {
  int first = 1, last = 1;
  bool operator==(const FrameRange&) const = default;
};

enum class PieceKind { lettering, ball, box };
enum class Part { holds, blocks, shows, guides };

struct Piece {
  std::string id, name;
  PieceKind kind = PieceKind::lettering;
  Part part = Part::holds;
  // lettering
  std::string text = "ODDLARK", font = "League Spartan Bold";
  double letter_size = 0.10;  // height of a capital
  double depth = 0.045, bevel = 0.006, spacing = 0;
  // ball, box
  double radius = 0.03;
  Vec3d size{0.2, 0.05, 0.2};
  // all
  Vec3d position{0, 0.12, 0}, turn{};
  bool operator==(const Piece&) const = default;
};

enum class SourceKind { every_part, piece };
enum class SeedPlace { low, centre, one_side };
enum class PourMode { adds, sets };
enum class Direction { outwards, up, down, left, right, front, back };

struct Smoke {
  std::string id, name;
  SourceKind from = SourceKind::every_part;
  std::string source;  // id of the piece that pours, where from == piece
  SeedPlace seed_place = SeedPlace::low;
  double seed_size = 0.7;  // of the room that there is in the stroke
  FrameRange pour{1, 72};
  PourMode mode = PourMode::adds;
  double density_rate = 0.18, density = 0.004;
  double heat = 40;
  double speed = 0.15;
  Direction direction = Direction::outwards;
  double patchiness = 0.5, patch_size = 0.01;
  Color color{0.55, 0.87, 0.74};
  bool operator==(const Smoke&) const = default;
};

/// How the mixture of all smokes behaves in the air.
struct Gas {
  double heat_lift = 1, density_lift = -1;
  double density_half_life = 0, heat_half_life = 2;  // 0: for ever
  bool operator==(const Gas&) const = default;
};

struct Forces {
  double gravity = 9.81;
  double turbulence_speed = 0.04, turbulence_size = 0.04, turbulence_rate = 0.7;
  double confinement_speed = 0.02, confinement_length = 0.02;
  bool operator==(const Forces&) const = default;
};

enum class Detail { draft, medium, final, custom };

struct RunSettings {
  Detail detail = Detail::draft;
  double cell_size = 0.0025;  // where detail == custom
  bool fit_bounds = true;
  Vec3d bounds_center{0, 0.2, 0}, bounds_size{0.8, 0.4, 0.3};
  bool open_left = true, open_right = true, open_bottom = true, open_top = true, open_back = true,
       open_front = true;
  double courant = 2.5;
  bool operator==(const RunSettings&) const = default;
};

struct Look {
  double thickness = 14000;  // extinction, m²/kg
  double glow = 0.3;
  Color shade{1, 1, 1};  // of light behind one optical depth
  double key_strength = 0.65, key_yaw = -49 * degree, key_pitch = 40 * degree;
  Color key_color{1, 0.94, 0.86};
  double rim_strength = 1.2, rim_yaw = 138 * degree, rim_pitch = 29 * degree;
  Color rim_color{0.75, 0.9, 1};
  Color background{0.022, 0.03, 0.03};
  double exposure = 0;  // stops
  double glass = 0.6;
  double halo = 0.1;
  bool floor = true;
  bool operator==(const Look&) const = default;
};

struct Camera {
  Vec3d target{0, 0.14, 0};
  double distance = 1.15, yaw = 0, pitch = 3.5 * degree;
  double focal = 0.050;  // on a frame 36 mm wide
  bool operator==(const Camera&) const = default;
};

struct Film {
  int width = 1920, height = 1080, fps = 24, frames = 120;
  bool operator==(const Film&) const = default;
};

struct Shot {
  std::string title = "Untitled";
  Film film;
  std::vector<Piece> pieces;
  std::vector<Smoke> smokes;
  Gas gas;
  Forces forces;
  RunSettings run;
  Look look;
  Camera camera;
  bool operator==(const Shot&) const = default;

  /// By id; null where there is none.
  const Piece* piece(const std::string& id) const;
  const Smoke* smoke(const std::string& id) const;
  Piece* piece(const std::string& id) { return const_cast<Piece*>(std::as_const(*this).piece(id)); }
  Smoke* smoke(const std::string& id) { return const_cast<Smoke*>(std::as_const(*this).smoke(id)); }
};

}  // namespace pour
