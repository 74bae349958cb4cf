// Time in a shot: the frames of the film, the seconds that they are apart for what is filmed, and slow
// motion.
#pragma once
#include <vector>

#include "shot/shot.h"

namespace pour {

/// Frames a second as a fraction. 23.976, 29.97, 59.94 and their like are n · 1000 / 1001 (SMPTE ST 12-1).
struct FrameRate {
  int num = 24, den = 1;
};
FrameRate exact_rate(double fps);

/// Film frames are counted from 1. Shot time is what is filmed goes through, in seconds from frame 1; frame n
/// is at the sum of 1 / capture speed over the frames before it. Keys of what solvers see are on shot frames,
/// 1 + shot time · playback speed: without slow motion these are the film's.
class Clock {
 public:
  explicit Clock(const Shot&);
  /// Shot time at a film frame, which may lie between two, s. Before frame 1 and beyond the last it goes on.
  double time(double film_frame) const;
  double film_frame(double time) const;
  double shot_frame(double time) const { return 1 + time * playback_.num / playback_.den; }
  double time_of_shot_frame(double frame) const { return (frame - 1) * playback_.den / playback_.num; }
  /// When the film shows a frame, s.
  double film_time(double film_frame) const { return (film_frame - 1) * playback_.den / playback_.num; }
  FrameRate playback() const { return playback_; }
  bool slow_motion() const { return slow_; }

 private:
  FrameRate playback_, capture_;
  bool slow_ = false;
  std::vector<double> times_;  // of each film frame and one more, where the capture speed changes
};

/// The frame that keys of a setting are on: of the film for what the camera sees, of the shot for what is
/// filmed.
bool on_film(const About&);

}  // namespace pour
