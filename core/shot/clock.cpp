#include "shot/clock.h"

#include <algorithm>
#include <cctype>
#include <cmath>

namespace pour {

FrameRate exact_rate(double fps) {
  const double whole = std::round(fps);
  if (std::abs(fps - whole) < 1e-9) return {int(whole), 1};
  // The rates of film and television that are told with two or three digits.
  const double up = std::round(fps * 1.001);
  const bool known = std::fmod(up, 24) == 0 || std::fmod(up, 30) == 0;
  if (known && std::abs(fps - up * 1000 / 1001) < 0.006) return {int(up) * 1000, 1001};
  return {int(std::lround(fps * 1000)), 1000};
}

Clock::Clock(const Shot& shot) : playback_(exact_rate(shot.film.frame_rate)) {
  const auto track = shot.film.tracks.find("capture");
  capture_ = shot.film.capture > 0 ? exact_rate(shot.film.capture) : playback_;
  slow_ = track != shot.film.tracks.end() || shot.film.capture > 0;
  if (track == shot.film.tracks.end()) return;
  About about;
  for (const Row<Film>& row : table<Film>())
    if (track->first == row.key) about = row.about(shot, shot.film);
  times_.assign(1, 0);
  for (int f = 1; f <= shot.film.frames; ++f) {
    const double speed = std::get<double>(evaluate(about, track->second, film_time(f)));
    times_.push_back(times_.back() + (speed > 0 ? 1 / speed : double(playback_.den) / playback_.num));
  }
}

double Clock::time(double f) const {
  if (times_.empty()) return (f - 1) * capture_.den / capture_.num;
  const size_t last = times_.size() - 2;
  const size_t i = size_t(std::clamp(std::floor(f) - 1, 0.0, double(last)));
  const double rest = f - 1 - double(i);
  return rest == 0 ? times_[i] : times_[i] + rest * (times_[i + 1] - times_[i]);
}

double Clock::film_frame(double t) const {
  if (times_.empty()) return 1 + t * capture_.num / capture_.den;
  const size_t last = times_.size() - 2;
  const auto next = std::upper_bound(times_.begin(), times_.end(), t);
  const size_t i = std::min(size_t(std::max<std::ptrdiff_t>(next - times_.begin() - 1, 0)), last);
  return 1 + double(i) + (t - times_[i]) / (times_[i + 1] - times_[i]);
}

double Clock::key_time(const About& s, double frame) const {
  return on_film(s) ? film_time(frame) : time(frame);
}

double Clock::key_frame(const About& s, double t) const {
  return on_film(s) ? 1 + t * playback_.num / playback_.den : film_frame(t);
}

bool on_film(const About& s) {
  return s.touches == Touches::picture || s.touches == Touches::light || s.touches == Touches::clock;
}

namespace {

bool is_whole(double frame) { return std::abs(frame - std::round(frame)) <= 1e-6; }

}  // namespace

std::string time_in_words(const About& s, double time, int digits) {
  if (s.clock)
    if (const double frame = s.clock->key_frame(s, time); is_whole(frame))
      return std::to_string(std::llround(frame));
  return seconds_in_words(time, digits);
}

std::string seconds_in_words(double time, int digits) {
  return format_quantity(time, Unit::none, digits) + " s";
}

double time_from_words(const About& s, const std::string& text, const std::string& where) {
  const bool with_unit =
      std::any_of(text.begin(), text.end(), [](unsigned char c) { return std::isalpha(c); });
  if (with_unit || !s.clock) return parse_quantity(text, Unit::time, where);
  return s.clock->key_time(s, parse_quantity(text, Unit::none, where));
}

Windows windows_at(const Clock& clock, const std::vector<FrameRange>& frames) {
  Windows out;
  for (const FrameRange& r : frames) out.list.push_back({clock.time(r.first), clock.time(r.last + 1)});
  return out;
}

double last_frame_of(const Clock& clock, const Span& span) { return clock.film_frame(span.to) - 1; }

bool on_frames(const Clock& clock, const Windows& w) {
  return std::all_of(w.list.begin(), w.list.end(), [&](const Span& s) {
    return is_whole(clock.film_frame(s.from)) && is_whole(clock.film_frame(s.to));
  });
}

}  // namespace pour
