// Refuses outlines that would take Clipper minutes.
#include <algorithm>

#include "base/error.h"
#include "base/text.h"
#include "shape/clipped.h"

namespace pour {
namespace {

namespace cl = ClipperLib;

// Measured: these take about five seconds each on a slow core.
constexpr size_t most_tangled = 400'000, most_crossings = 30'000;
constexpr size_t most_looks = 200'000'000;  // at pairs of lines, in half a second

struct Line {
  cl::IntPoint a, b;
  cl::cInt left() const { return std::min(a.X, b.X); }
  cl::cInt right() const { return std::max(a.X, b.X); }
  cl::cInt low() const { return std::min(a.Y, b.Y); }
  cl::cInt high() const { return std::max(a.Y, b.Y); }
};

double side(const Line& l, const cl::IntPoint& p) {
  return double(l.b.X - l.a.X) * double(p.Y - l.a.Y) - double(l.b.Y - l.a.Y) * double(p.X - l.a.X);
}

bool cross(const Line& l, const Line& m) {
  return side(l, m.a) * side(l, m.b) < 0 && side(m, l.a) * side(m, l.b) < 0;
}

/// Whether there are more crossings than `most_crossings`, or more looks would be needed than are had to
/// know.
bool cross_too_often(std::vector<Line>& lines) {
  std::sort(lines.begin(), lines.end(), [](const Line& l, const Line& m) { return l.left() < m.left(); });
  std::vector<const Line*> open;
  size_t crossings = 0, looks = 0;
  for (const Line& l : lines) {
    std::erase_if(open, [&](const Line* o) { return o->right() < l.left(); });
    looks += open.size();
    if (looks > most_looks) return true;
    for (const Line* o : open)
      if (o->low() <= l.high() && l.low() <= o->high() && cross(*o, l) && ++crossings > most_crossings)
        return true;
    open.push_back(&l);
  }
  return false;
}

}  // namespace

void refuse_tangles(const cl::Paths& paths, const std::string& where) {
  std::vector<Line> lines;
  for (const cl::Path& path : paths) {
    for (size_t i = 0; i < path.size(); ++i) lines.push_back({path[i], path[(i + 1) % path.size()]});
    if (lines.size() > most_tangled)
      throw shot_fault(where, filled("has over {most} points.", {{"most", std::to_string(most_tangled)}}),
                       "Simplify its paths where it was drawn.");
  }
  if (cross_too_often(lines))
    throw shot_fault(where,
                     filled("is too tangled: its lines cross over {most} times.",
                            {{"most", std::to_string(most_crossings)}}),
                     "Unite or simplify its paths where it was drawn.");
}

}  // namespace pour
