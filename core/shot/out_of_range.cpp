#include "shot/out_of_range.h"

#include "base/error.h"
#include "base/text.h"
#include "shot/animate.h"
#include "shot/items.h"

namespace pour {
namespace {

std::string setting_of(const OutOfRange& o) { return o.path.substr(0, o.path.find('@')); }

std::string problem_of(const OutOfRange& o) {
  return filled("is {was} in the file, which is out of range. {now} was taken.",
                {{"was", o.was}, {"now", o.now}});
}

}  // namespace

std::vector<OutOfRange> unsettled_ranges(const Shot& shot) {
  if (shot.out_of_range.empty()) return {};
  const std::vector<std::string> known = setting_paths(shot);
  std::vector<OutOfRange> out;
  for (const OutOfRange& o : shot.out_of_range) {
    const std::string setting = setting_of(o);
    if (std::find(known.begin(), known.end(), setting) == known.end()) continue;
    if (setting == o.path || find_track(shot, setting)) out.push_back(o);
  }
  return out;
}

std::string in_words(const OutOfRange& o) { return o.path + " " + problem_of(o); }

void keep_within_limits(Shot& shot) {
  each_item(shot, [](const ItemPlace&, auto& item) {
    for (const auto& row : settings_of(std::as_const(item)))
      if (const Value value = row.get(item), kept = kept_within(row, value); !(kept == value))
        row.set(item, kept);
  });
}

void settle_range(Shot& shot, const std::string& path) {
  std::erase_if(shot.out_of_range,
                [&](const OutOfRange& o) { return o.path == path || setting_of(o) == path; });
}

void refuse_unsettled_ranges(const Shot& shot) {
  const auto all = unsettled_ranges(shot);
  if (all.empty()) return;
  const OutOfRange& o = all.front();
  throw shot_fault(
      o.path, problem_of(o),
      filled("Set it, or accept {now} with “easy-pour-cli check FILE --mend”.", {{"now", o.now}}));
}

}  // namespace pour
