// Time in a shot: film frames, shot time and slow motion.
#pragma once
#include <vector>

#include "shot/shot.h"

namespace pour {

/// Frames a second as a fraction. 23.976, 29.97, 59.94 and their like are n · 1000 / 1001 (SMPTE ST 12-1).
struct FrameRate {
  int num = 24, den = 1;
};
FrameRate exact_rate(double fps);

/// Film frames are counted from 1. Shot time runs in the scene, in seconds from frame 1: frame n is at the
/// sum of 1 / capture speed over the frames before it. Film time runs as the film is played. Fluid and motion
/// are keyed in shot time; camera, light and picture in film time. People see film frames.
class Clock {
 public:
  explicit Clock(const Shot&);
  /// Shot time at a film frame, s. Fractional frames and frames outside the film are allowed.
  double time(double film_frame) const;
  double film_frame(double time) const;
  /// Film time at a film frame, s.
  double film_time(double film_frame) const { return (film_frame - 1) * playback_.den / playback_.num; }
  /// Time of a setting's keys at a film frame, s, and the inverse.
  double key_time(const About&, double film_frame) const;
  double key_frame(const About&, double time) const;
  FrameRate playback() const { return playback_; }

 private:
  FrameRate playback_, capture_;
  bool slow_ = false;
  std::vector<double>
      times_;  // shot time of each film frame and one more; empty if the capture speed is constant
};

/// Whether a setting is keyed in film time.
bool on_film(const About&);

/// A setting's time for people: the film frame if it is within 1e-6 of one, otherwise seconds ("0.4 s").
/// Without a clock, seconds.
std::string time_in_words(const About&, double time, int digits = 9);
/// A time in seconds, "0.4 s", whatever its size.
std::string seconds_in_words(double time, int digits = 9);
/// Reads a film frame, or a time with its unit. Throws Fault (Blame::shot) naming `where`.
double time_from_words(const About&, const std::string& text, const std::string& where);

/// Windows from their first and last film frames, both included.
Windows windows_at(const Clock&, const std::vector<FrameRange>&);
inline Windows windows_at(const Shot& shot, const std::vector<FrameRange>& frames) {
  return windows_at(Clock(shot), frames);
}
/// The last film frame within a span.
double last_frame_of(const Clock&, const Span&);
/// Whether each span begins and ends on a film frame.
bool on_frames(const Clock&, const Windows&);

}  // namespace pour
