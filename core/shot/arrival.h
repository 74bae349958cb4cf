// Marks and models that come into a shot from files.
#pragma once
#include <string>

#include "base/work.h"
#include "shot/shot.h"

namespace pour {

/// Adds a mark or model from a file, or from SVG text, as a piece that blocks and shows and stands on the
/// floor. Returns its path. Throws Fault (Blame::shot) if it cannot be read.
std::string bring_in(Shot&, const std::string& what, const std::string& name = {});
/// bring_in() in two parts: reading, which may take long and does not touch the shot, and adding. Reading
/// throws GivenUp when stopped.
struct Arrival {
  Shape shape;
  std::string file;  // its name
};
Arrival read_arrival(const std::string& what, const StopAsked& = {});
std::string add_arrival(Shot&, const Arrival&, const std::string& name = {});
/// The first setting of a shot that takes such a file, "pieces.mark.drawing" or "pieces.jar.file", by the
/// file's suffix; empty if there is none.
std::string place_for(const Shot&, const std::string& file);
/// “Lark.svg: 3 parts, 19.2 cm wide and 16 cm high; left out: text.” Empty for a shape that did not come from
/// a file. Throws Fault (Blame::shot) if it cannot be used in a set. For a large model this takes longer than
/// reading it.
std::string arrival_in_words(const Shape&, const StopAsked& = {});
/// Its height if it came from a file, m; otherwise null.
double* height_of(Shape&);

}  // namespace pour
