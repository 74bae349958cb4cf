// What comes into a shot from files: marks and models, and what there is to know of them.
#pragma once
#include <string>

#include "base/work.h"
#include "shot/shot.h"

namespace pour {

/// A mark or a model that blocks and shows, standing on the floor, from a file, or from the text of an SVG.
/// Throws Fault (Blame::shot) where it can't be read.
std::string bring_in(Shot&, const std::string& what, const std::string& name = {});
/// The same in two parts: reading what may take long, away from the shot, and adding it. Throws GivenUp, too.
struct Arrival {
  Shape shape;
  std::string file;  // its name
};
Arrival read_arrival(const std::string& what, const StopAsked& = {});
std::string add_arrival(Shot&, const Arrival&, const std::string& name = {});
/// “Lark.svg: 3 parts, 19.2 cm wide and 16 cm high; left out: text.” Empty for what did not come from a file.
/// Throws Fault (Blame::shot) where it can't stand in a set. For a large model it takes longer than to read
/// it.
std::string arrival_in_words(const Shape&, const StopAsked& = {});
/// Its height where it came from a file, m.
double* height_of(Shape&);

}  // namespace pour
