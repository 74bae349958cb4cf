// The lanes of the time strip: what happens in time, and where each of its keys and windows is drawn.
#pragma once
#include <map>
#include <QPointF>
#include <QRectF>
#include <string>
#include <vector>

#include "shot/animate.h"

/// One lane. Frames here are the film's.
struct Lane {
  enum class Kind { run, pour, track };
  Kind kind = Kind::run;
  std::string path;  // "pours.mint", "gas.density_lift"; what is told apart by
  std::string name;
  int top = 0, height = 0;  // pixels, in the strip
  bool tall = false;
};

/// Where frames and values are in the strip.
class TimeScale {
 public:
  double left = 0, right = 1;    // pixels
  double first = 1, last = 120;  // frames that are seen
  double x_of(double frame) const {
    return left + (frame - first) * (right - left) / std::max(1e-6, last - first);
  }
  double frame_at(double x) const {
    return first + (x - left) * (last - first) / std::max(1.0, right - left);
  }
};

/// The lanes of a shot: its run, each pour, and each setting that has a track.
std::vector<Lane> lanes_of(const pour::Shot&, const std::map<std::string, bool>& tall, int top,
                           int row_height, int tall_height);

/// The id at the end of the path of an item: "mint" of "pours.mint".
inline std::string id_in(const std::string& path) { return path.substr(path.rfind('.') + 1); }

/// A setting with a track as it is drawn: film frames, and values between the least and the most of it.
class TrackView {
 public:
  /// The clock is that of the shot.
  TrackView(const pour::Shot&, const pour::Clock&, const std::string& path);
  const pour::Setting& setting() const { return setting_; }
  const pour::Track& track() const { return *setting_.track; }
  int parts() const { return pour::parts_of(setting_.value); }
  /// The film frame of a key's time, s, and back.
  double film_frame(double key_time) const { return clock_.key_frame(setting_, key_time); }
  double key_time(double film_frame) const { return clock_.key_time(setting_, film_frame); }
  /// A part of the value at a frame of the film; 0 where it only holds.
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
