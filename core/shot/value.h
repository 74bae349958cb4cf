// The kinds of values of settings, with conversion to text and JSON and interpolation between keys.
#pragma once
#include <cstdint>
#include <memory>
#include <nlohmann/json_fwd.hpp>
#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

#include "base/units.h"
#include "base/vec.h"
#include "base/work.h"
#include "shot/values/dependence.h"

namespace pour {

class Clock;

struct Color {
  double r = 1, g = 1, b = 1;  // linear Rec. 709
  bool operator==(const Color&) const = default;
};
template <class T = float>
Vec3<T> rgb(const Color& c) {
  return {T(c.r), T(c.g), T(c.b)};
}

/// Film frames, first..last, both included, counted from 1.
struct FrameRange {
  int first = 1, last = 1;
  bool operator==(const FrameRange&) const = default;
};

/// An option, by its index.
struct Choice {
  int index = 0;
  bool operator==(const Choice&) const = default;
};
/// One or more options, as bits by their index.
struct Choices {
  unsigned bits = 1;
  static Choices of(int index) { return {1u << index}; }
  bool has(int index) const { return bits >> index & 1; }
  bool operator==(const Choices&) const = default;
};
/// The id of a piece, a fluid or a material of the shot, or "" for none.
struct PieceId {
  std::string id;
  bool operator==(const PieceId&) const = default;
};
struct FluidId {
  std::string id;
  bool operator==(const FluidId&) const = default;
};
struct MaterialId {
  std::string id;
  bool operator==(const MaterialId&) const = default;
};
/// A font by its full name.
struct FontName {
  std::string name;
  bool operator==(const FontName&) const = default;
};

/// A file kept in a shot: name, shared bytes, and original path, so that changes are noticed.
template <class Kind>
struct Enclosed {
  std::string name;
  std::shared_ptr<const std::string> bytes;  // null: none yet
  std::string from = {};                     // full path; empty: not from a file
  std::string print = {};                    // print_of() the file when it was imported
  const std::string& content() const {
    static const std::string none;
    return bytes ? *bytes : none;
  }
  bool operator==(const Enclosed& o) const {
    return name == o.name && from == o.from && print == o.print &&
           (bytes == o.bytes || content() == o.content());
  }
};
/// The text of an SVG file.
using Drawing = Enclosed<struct DrawingKind>;
/// The bytes of pack_model().
using ModelFile = Enclosed<struct ModelKind>;
/// The bytes of pack_pixels().
using PictureFile = Enclosed<struct PictureKind>;
/// Ids of pieces and fluids; empty means all.
struct Links {
  std::vector<std::string> ids;
  bool operator==(const Links&) const = default;
  bool has(const std::string& id) const;
};
/// A model from a file; throws as read_model().
ModelFile model_from(const std::string& file, const StopAsked& = {});
/// A model that ships with the program; empty if missing.
Drawing shipped_drawing(const std::string& file);
ModelFile shipped_model(const std::string& file);

/// Points of a curve, m; at least two.
struct Points {
  std::vector<Vec3d> list;
  std::vector<double> sizes = {};  // relative thickness at each point; empty: 1
  bool operator==(const Points&) const = default;
};
constexpr double same_time = 1e-8;  // times closer than this are equal, s
/// A span of shot time, s; frame 1 begins at 0.
struct Span {
  double from = 0, to = 0;
  bool operator==(const Span&) const = default;
};
/// Time spans in order, without overlap.
struct Windows {
  std::vector<Span> list;
  bool operator==(const Windows&) const = default;
};
/// A shot time, s; empty: never.
struct Moment {
  std::optional<double> time;
  bool operator==(const Moment&) const = default;
};

using Value =
    std::variant<double, int, bool, std::string, Vec3d, Color, Windows, Moment, Choice, Choices, PieceId,
                 FluidId, FontName, Points, Drawing, ModelFile, PictureFile, Links, MaterialId, Dependence>;

/// An option of a setting: key in files, label in the window.
struct Option {
  const char* key;
  const char* label;
};

/// Where the recipe shows a setting: in the card, or under "more".
enum class Depth { main, more };

/// What must be recomputed when a setting changes.
enum class Touches {
  name,     // a name only
  picture,  // pictures
  light,    // lighting of smoke
  clock,    // the clock
  flow,     // the simulation
  pose,     // the pose of a piece
  shape,    // the shape of a piece
  layout,   // cells, bounds and length of the run; cannot be animated
};

/// The description of a setting, independent of its item.
struct About {
  const char* key = "";       // in files and paths: words of the name
  const char* formerly = "";  // key before version 9, still accepted in paths; empty: unchanged
  const char* name = "";      // label in the window
  const char* help = "";      // sentence for people
  Touches touches = Touches::flow;
  Unit unit = Unit::none;
  double low = 0, high = 1;                // accepted range, SI
  double slider_low = 0, slider_high = 1;  // range of the slider, SI
  const char* zero = "";                   // word shown for 0, if 0 has a special meaning
  bool zero_holds = false;                 // the word is not a number: keys next to it hold
  double zero_is = 0;                      // number that the word stands for, SI; 0: none
  Depth depth = Depth::main;
  std::span<const Option> options;          // of a choice, or labels for no and yes
  int dimensions = 3;                       // of points; points in 3-d may have sizes
  bool fixed = false;                       // cannot be animated
  bool traced = false;                      // shown in traced pictures only
  std::shared_ptr<const Clock> clock = {};  // for times in film frames; null: in seconds
  /// Whether the last word of a path names this setting.
  bool is_called(std::string_view word) const { return word == key || (*formerly && word == formerly); }
};

/// Converts a value to text with its unit ("12 cm", "holds", "1-40" for frames 1 to 40), and back to a value
/// of the kind of `like`. Reading throws Fault (Blame::shot) that names `where`, range and units.
std::string to_text(const About&, const Value&);
Value from_text(const About&, const Value& like, const std::string& text, const std::string& where);
/// A value as text with this many significant digits.
std::string to_words(const About&, const Value&, int digits);

/// JSON of a value: SI numbers, choices as keys, colours as [r, g, b] linear. Reading does not apply limits
/// (limits.h); integers beyond 2³¹ are clamped to it.
nlohmann::ordered_json to_json(const About&, const Value&);
Value from_json(const About&, const Value& like, const nlohmann::ordered_json&, const std::string& where);

/// "#c4f0df", in sRGB.
std::string hex(const Color&);

}  // namespace pour
