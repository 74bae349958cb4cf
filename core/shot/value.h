// What a setting can be: the kinds of value, each with its text, its JSON and its way between two keys.
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

/// Frames of the film, first..last, both included; frames count from 1.
struct FrameRange {
  int first = 1, last = 1;
  bool operator==(const FrameRange&) const = default;
};

/// One of a list of options, by its index.
struct Choice {
  int index = 0;
  bool operator==(const Choice&) const = default;
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

/// What a shot keeps of a file: its name and bytes that copies of it share, and where the file was, so that
/// it is seen when that changes.
template <class Kind>
struct Enclosed {
  std::string name;
  std::shared_ptr<const std::string> bytes;  // null: none yet
  std::string from = {};                     // the whole path; empty: it came from no file
  std::string print = {};                    // print_of() that file as it was
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
/// What pack_model() makes of a model.
using ModelFile = Enclosed<struct ModelKind>;
/// What pack_pixels() makes of a picture.
using PictureFile = Enclosed<struct PictureKind>;
/// The ids of pieces and fluids of the shot; none stands for all.
struct Links {
  std::vector<std::string> ids;
  bool operator==(const Links&) const = default;
  bool has(const std::string& id) const;
};
/// A model from a file; throws as read_model() does.
ModelFile model_from(const std::string& file, const StopAsked& = {});
/// One that comes with the program; empty where it is missing.
Drawing shipped_drawing(const std::string& file);
ModelFile shipped_model(const std::string& file);

/// What a curve runs through, m; at least two.
struct Points {
  std::vector<Vec3d> list;
  std::vector<double> sizes = {};  // how thick it is at each, as a share of usual; none: 1 everywhere
  bool operator==(const Points&) const = default;
};
/// From one instant of what is filmed to another, s; frame 1 begins at 0.
struct Span {
  double from = 0, to = 0;
  bool operator==(const Span&) const = default;
};
/// Spans in which something happens: in order, none reaching into the next.
struct Windows {
  std::vector<Span> list;
  bool operator==(const Windows&) const = default;
};
/// An instant of what is filmed, s; none: never.
struct Moment {
  std::optional<double> time;
  bool operator==(const Moment&) const = default;
};

using Value = std::variant<double, int, bool, std::string, Vec3d, Color, Windows, Moment, Choice, PieceId,
                           FluidId, FontName, Points, Drawing, ModelFile, PictureFile, Links, MaterialId>;

/// One choice of a setting that has a few: the word in files and the words on screen.
struct Option {
  const char* key;
  const char* label;
};

/// Where in the recipe a setting is shown: in the card, or under "more".
enum class Depth { main, more };

/// What has to be made anew where a setting changes.
enum class Touches {
  name,     // what something is called, nothing else
  picture,  // how it is drawn
  light,    // how smoke is lit
  clock,    // how fast time goes for what is filmed
  flow,     // what moves the fluid
  pose,     // where a piece stands
  shape,    // what a piece is
  layout,   // what is settled before a run begins: its cells, bounds and length
};

/// What is known of a setting, whatever it is a setting of.
struct About {
  const char* key = "";   // word in files and paths
  const char* name = "";  // words on screen
  const char* help = "";  // one line
  Touches touches = Touches::flow;
  Unit unit = Unit::none;
  double low = 0, high = 1;                // what is accepted, SI
  double slider_low = 0, slider_high = 1;  // what the slider covers, SI
  const char* zero = "";                   // a word for 0, where that means something else than very little
  bool zero_holds = false;  // the word is no number: beside it a key's value stays until the next
  double zero_is = 0;       // the number that the word stands for, SI; 0: it is 0, or no number
  Depth depth = Depth::main;
  std::span<const Option> options;  // of a choice; of yes and no where they have words of their own: no, yes
  int dimensions = 3;               // of points; those of three may have sizes
  bool fixed = false;               // stays the same for the whole shot, whatever it touches
  bool traced = false;              // seen in traced pictures alone
  std::shared_ptr<const Clock> clock = {};  // by which times are told in frames; null: in seconds
};

/// A value as text in its friendly unit ("12 cm", "holds", frames 1 to 40 as "1-40") and back. Reading gives
/// the kind of value that `like` is, and throws Fault (Blame::shot) that names `where`, the range and the
/// units.
std::string to_text(const About&, const Value&);
Value from_text(const About&, const Value& like, const std::string& text, const std::string& where);
/// A value with so many significant digits, for people.
std::string to_words(const About&, const Value&, int digits);

/// The same in a file: SI numbers, choices as words, colours as [r, g, b] linear. Numbers are read as they
/// stand, whatever their limits (limits.h); whole ones beyond 2³¹ become that.
nlohmann::ordered_json to_json(const About&, const Value&);
Value from_json(const About&, const Value& like, const nlohmann::ordered_json&, const std::string& where);

/// "#c4f0df", in sRGB.
std::string hex(const Color&);

}  // namespace pour
