#include "time/lanes.h"

#include <algorithm>
#include <cmath>

#include "shot/items.h"

using namespace pour;

std::vector<Lane> lanes_of(const Shot& shot, const std::map<std::string, bool>& tall, int top, int row_height,
                           int tall_height) {
  std::vector<Lane> out;
  const auto add = [&](Lane::Kind kind, const std::string& path, const std::string& name) {
    Lane lane{kind, path, name, top, row_height, false};
    if (const auto t = tall.find(path); kind == Lane::Kind::track && t != tall.end() && t->second)
      lane.tall = true, lane.height = tall_height;
    top += lane.height;
    out.push_back(lane);
  };
  add(Lane::Kind::run, "run", "");
  for (const Pour& p : shot.pours) add(Lane::Kind::pour, "pours." + p.id, p.name);
  each_item(shot, [&](const ItemPlace& place, const auto& item) {
    for (const auto& row : settings_of(item))
      if (item.tracks.contains(row.key)) {
        add(Lane::Kind::track, place.path() + "." + row.key, place.name + " · " + row.name);
      }
  });
  return out;
}

TrackView::TrackView(const Shot& shot, const Clock& clock, const std::string& path)
    : clock_(clock), setting_(find_setting(shot, path)) {
  low_ = 1e300, high_ = -1e300;
  for (const Key& k : track().keys)
    for (int p = 0; p < parts(); ++p)
      low_ = std::min(low_, part_of(k.value, p)), high_ = std::max(high_, part_of(k.value, p));
  // Curves with handles of their own may go beyond their keys.
  const double from = film_frame(track().keys.front().time), to = film_frame(track().keys.back().time);
  for (int i = 0; i <= 64; ++i)
    for (int p = 0; p < parts(); ++p) {
      const double v = value(from + (to - from) * i / 64, p);
      low_ = std::min(low_, v), high_ = std::max(high_, v);
    }
  if (parts() == 0) low_ = 0, high_ = 1;
  if (high_ - low_ < 1e-12) {
    const double room = std::max(0.1 * std::abs(high_), 0.1 * (setting_.slider_high - setting_.slider_low));
    low_ -= room, high_ += room;
  }
}

double TrackView::value(double film_frame, int part) const {
  const Value v = evaluate(setting_, track(), key_time(film_frame));
  return part < parts_of(v) ? part_of(v, part) : 0;
}

double TrackView::y_of(const Lane& lane, double value) const {
  const double room = lane.height - 12;
  return lane.top + 6 + room * (1 - (value - low_) / (high_ - low_));
}

double TrackView::value_at(const Lane& lane, double y) const {
  const double room = lane.height - 12;
  return low_ + (high_ - low_) * (1 - (y - lane.top - 6) / room);
}

QPointF TrackView::key_place(const Lane& lane, const TimeScale& scale, const Key& key, int part) const {
  const double y = parts() ? y_of(lane, part_of(key.value, part)) : lane.top + lane.height / 2.0;
  return {scale.x_of(film_frame(key.time)), y};
}
