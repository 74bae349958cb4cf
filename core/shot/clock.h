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
/// is at the sum of 1 / capture speed over the frames before it. Inside, positions are times: of the shot for
/// what flows and moves, of the film as it is played for what the camera sees. People are told the frame.
class Clock {
 public:
  explicit Clock(const Shot&);
  /// Shot time at a film frame, which may lie between two, s. Before frame 1 and beyond the last it goes on.
  double time(double film_frame) const;
  double film_frame(double time) const;
  /// When the film shows a frame, s.
  double film_time(double film_frame) const { return (film_frame - 1) * playback_.den / playback_.num; }
  /// The time that keys of a setting have at a film frame, s, and back.
  double key_time(const About&, double film_frame) const;
  double key_frame(const About&, double time) const;
  FrameRate playback() const { return playback_; }
  bool slow_motion() const { return slow_; }

 private:
  FrameRate playback_, capture_;
  bool slow_ = false;
  std::vector<double> times_;  // of each film frame and one more, where the capture speed changes
};

/// Whether keys of a setting are at times of the film, as those of what the camera sees are.
bool on_film(const About&);

/// A time of a setting as people read it: the frame of the film where it is within 1e-6 of one, or else
/// seconds ("0.4 s"). Without a clock, seconds.
std::string time_in_words(const About&, double time, int digits = 9);
/// "0.4 s", never in another unit.
std::string seconds_in_words(double time, int digits = 9);
/// A frame of the film, or seconds with their unit. Throws Fault (Blame::shot) of `where`.
double time_from_words(const About&, const std::string& text, const std::string& where);

/// Windows by their first and last frames of the film, both included.
Windows windows_at(const Clock&, const std::vector<FrameRange>&);
inline Windows windows_at(const Shot& shot, const std::vector<FrameRange>& frames) {
  return windows_at(Clock(shot), frames);
}
/// The last frame of the film within a span.
double last_frame_of(const Clock&, const Span&);
/// Whether each span begins and ends with a frame.
bool on_frames(const Clock&, const Windows&);

}  // namespace pour
