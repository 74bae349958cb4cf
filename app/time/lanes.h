// The lanes of the time strip and the layout of their keys and windows.
#pragma once
#include <map>
#include <QPointF>
#include <QRectF>
#include <string>
#include <vector>

#include "shot/animate.h"

/// A lane. Frames are film frames.
struct Lane {
  enum class Kind { run, pour, track };
  Kind kind = Kind::run;
  std::string path;  // "pours.mint", "gas.density_lift"; identifies the lane
  std::string name;
  int top = 0, height = 0;  // pixels in the strip
  bool tall = false;
};

/// Maps frames and values to the strip.
class TimeScale {
 public:
  double left = 0, right = 1;    // pixels
  double first = 1, last = 120;  // visible frames
  double x_of(double frame) const {
    return left + (frame - first) * (right - left) / std::max(1e-6, last - first);
  }
  double frame_at(double x) const {
    return first + (x - left) * (last - first) / std::max(1.0, right - left);
  }
};

/// The lanes of a shot: its run, each pour, and each animated setting.
std::vector<Lane> lanes_of(const pour::Shot&, const std::map<std::string, bool>& tall, int top,
                           int row_height, int tall_height);

/// The id in an item's path: "mint" of "pours.mint".
inline std::string id_in(const std::string& path) { return path.substr(path.rfind('.') + 1); }

/// Drawing of an animated setting: film frames, and values within the track's range.
class TrackView {
 public:
  /// `clock` is the shot's.
  TrackView(const pour::Shot&, const pour::Clock&, const std::string& path);
  const pour::Setting& setting() const { return setting_; }
  const pour::Track& track() const { return *setting_.track; }
  int parts() const { return pour::parts_of(setting_.value); }
  /// Film frame of a key's time, s, and the inverse.
  double film_frame(double key_time) const { return clock_.key_frame(setting_, key_time); }
  double key_time(double film_frame) const { return clock_.key_time(setting_, film_frame); }
  /// A component of the value at a film frame; 0 if it cannot be interpolated.
  double value(double film_frame, int part) const;
  double low() const { return low_; }
  double high() const { return high_; }
  double y_of(const Lane&, double value) const;
  double value_at(const Lane&, double y) const;
  QPointF key_place(const Lane&, const TimeScale&, const pour::Key&, int part) const;

 private:
  pour::Clock clock_;
  pour::Setting setting_;
  double low_ = 0, high_ = 1;
};
