#include "check/file_checks.h"

#include <algorithm>

#include "base/file.h"
#include "base/pixels.h"
#include "base/text.h"
#include "shot/describe.h"

namespace pour {
namespace {

template <class T>
constexpr bool is_enclosed = false;
template <class Kind>
constexpr bool is_enclosed<Enclosed<Kind>> = true;

struct Origin {
  std::string path;  // of the setting
  std::string name, from, print;
};

std::vector<Origin> origins(const Shot& shot) {
  std::vector<Origin> out;
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings)
      std::visit(
          [&]<class T>(const T& v) {
            if constexpr (is_enclosed<T>)
              if (!v.from.empty()) out.push_back({g.path(s), v.name, v.from, v.print});
          },
          s.value);
  return out;
}

/// Pictures with values that light can't have.
std::vector<Check> light_of_pictures(const Shot& shot) {
  std::vector<Check> out;
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings)
      if (const auto* p = std::get_if<PictureFile>(&s.value); p && p->bytes && !p->bytes->empty())
        if (const size_t n = unpack_picture(p->bytes, g.path(s))->mended)
          out.push_back({CheckLevel::warning,
                         filled("{name} has invalid pixels", {{"name", p->name}}),
                         filled("{count} of its values were negative, infinite or not a number. They are "
                                "read as 0 or 65504.",
                                {{"count", std::to_string(n)}}),
                         {},
                         {}});
  return out;
}

}  // namespace

std::vector<std::string> files_of(const Shot& shot) {
  std::vector<std::string> out;
  for (const Origin& o : origins(shot))
    if (std::find(out.begin(), out.end(), o.from) == out.end()) out.push_back(o.from);
  return out;
}

std::vector<Check> file_checks(const Shot& shot) {
  std::vector<Check> out = light_of_pictures(shot);
  std::vector<std::string> seen;
  const std::vector<Origin> all = origins(shot);
  for (const Origin& o : all) {
    const std::string print = print_of(o.from);
    if (print.empty() || print == o.print || std::find(seen.begin(), seen.end(), o.from) != seen.end())
      continue;
    seen.push_back(o.from);
    out.push_back({CheckLevel::warning, filled("{name} has changed on disk", {{"name", o.name}}),
                   filled("The shot still uses its own copy of {from}.", {{"from", o.from}}), "Load it again",
                   [from = o.from](Shot& t) {
                     for (const Origin& each : origins(t))
                       if (each.from == from) set_text(t, each.path, from, each.path);
                   }});
  }
  return out;
}

}  // namespace pour
