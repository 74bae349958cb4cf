#include "shot/assign.h"

#include <sstream>

#include "base/error.h"
#include "base/text.h"
#include "shape/pose.h"
#include "shot/animate.h"

namespace pour {
namespace {

/// Takes the ease off the end of a key's text, if there is one.
void take_ease(std::string& text, Key& key, const std::string& where) {
  std::istringstream in(text);
  std::vector<std::string> words;
  for (std::string w; in >> w;) words.push_back(w);
  for (size_t i = 0; i < words.size(); ++i)
    for (int e = 0; e < 4; ++e) {
      if (words[i] != ease_names[e].key || i == 0) continue;
      key.ease = Ease(e);
      const std::vector<std::string> rest(words.begin() + std::ptrdiff_t(i) + 1, words.end());
      if (!rest.empty() && (key.ease != Ease::own || rest.size() != 4))
        throw shot_fault(where, filled("“{rest}” after its ease means nothing.", {{"rest", rest.front()}}),
                         "Write “own” with four numbers, or the ease alone.");
      double* handles[4] = {&key.handles.out_time, &key.handles.out_way, &key.handles.in_time,
                            &key.handles.in_way};
      for (size_t k = 0; k < rest.size(); ++k) {
        *handles[k] = parse_quantity(rest[k], Unit::none, where);
        if (k % 2 == 0 && !(*handles[k] >= 0 && *handles[k] <= 1))
          throw shot_fault(where, filled("has a handle at {rest} of the time.", {{"rest", rest[k]}}),
                           "Times are from 0 to 1.");
      }
      text = text.substr(0, text.rfind(words[i], text.size() - 1));
      while (!text.empty() && text.back() == ' ') text.pop_back();
      return;
    }
}

Track track_or_new(const Shot& shot, const std::string& path) {
  if (const Track* t = find_track(shot, path)) return *t;
  return {};
}

Beyond beyond_of(const std::string& text, const std::string& where) {
  About about;
  about.options = beyond_names;
  return Beyond(std::get<Choice>(from_text(about, Choice{}, text, where)).index);
}

void set_key(Shot& shot, const std::string& path, const std::string& at, std::string text) {
  const std::string where = path + "@" + at;
  const double time = time_from_words(timed(shot, path), at, where);
  if (!(std::abs(time) <= last_key_time))
    throw shot_fault(where, "is too far from the shot.", "Choose a frame of it.");
  Track track = track_or_new(shot, path);
  if (text.empty()) {
    const Key* key = track.key_at(time);
    if (!key) throw shot_fault(where, "has no key that could be removed.", "“show” lists them.");
    track.keys.erase(track.keys.begin() + (key - track.keys.data()));
    return set_track(shot, path, track);
  }
  const Setting about = find_setting(shot, path);
  if (!about.can_animate())
    throw shot_fault(path, "can't change within a shot.", "It is settled before a run begins.");
  Key as_written{time, about.value, Ease::smooth, {}};
  const std::string whole = text;
  take_ease(text, as_written, where);
  track.set_key(time, from_text(about, about.value, text, where));
  Key& key = track.keys[size_t(track.key_at(time) - track.keys.data())];
  if (text != whole) key.ease = as_written.ease, key.handles = as_written.handles;
  set_track(shot, path, track);
}

void set_of_track(Shot& shot, const std::string& path, const std::string& what, const std::string& text) {
  const std::string where = path + "@" + what;
  const Setting about = find_setting(shot, path);
  if (!about.track)
    throw shot_fault(path, "has no track.",
                     filled("Give it a key first, for example {path}@1={about}.",
                            {{"path", path}, {"about", about.text()}}));
  Track track = *about.track;
  const auto three = [&](const About& unit) {
    const Value v = from_text(unit, about.value, text, where);
    Vec3d out{};
    for (int p = 0; p < parts_of(v); ++p) out[p] = part_of(v, p);
    return out;
  };
  if (what == "before") {
    track.before = beyond_of(text, where);
  } else if (what == "after") {
    track.after = beyond_of(text, where);
  } else if (what == "wobble") {
    if (!can_mix(about.value)) throw shot_fault(path, "can't wobble: it only holds.", "Give it keys.");
    About amount = about;
    amount.low = -(amount.high = about.high - about.low);
    track.wobble.amount = three(amount);
  } else if (what == "wobble_rate") {
    About rate;
    rate.unit = Unit::rate, rate.high = 1000;
    const double r = std::get<double>(from_text(rate, 0.0, text, where));
    track.wobble.rate = {r, r, r};
  } else if (what == "wobble_seed") {
    const auto seed = whole_number(text, 0, 1000000000);
    if (!seed)
      throw shot_fault(where, filled("“{text}” is no seed.", {{"text", text}}), "Write a whole number.");
    track.wobble.seed = int(*seed);
  } else {
    throw usage_fault(where, "is nothing of a track.",
                      "Write a frame or a time, before, after, wobble, wobble_rate or wobble_seed.");
  }
  set_track(shot, path, track);
}

}  // namespace

void assign(Shot& shot, const std::string& assignment) {
  const size_t eq = assignment.find('=');
  if (eq == std::string::npos)
    throw usage_fault(assignment, "has no value.", "Write it as PATH=VALUE, for example forces.gravity=0.");
  const std::string left = assignment.substr(0, eq), text = assignment.substr(eq + 1);
  const size_t at = left.find('@');
  const std::string path = path_now(shot, left.substr(0, at)),
                    what = at == std::string::npos ? "" : left.substr(at + 1);
  Shot changed = shot;
  if (at == std::string::npos) {
    if (find_track(changed, path))
      throw shot_fault(path, "has a track: it is not clear what is meant.",
                       filled("Write {path}@FRAME=VALUE for a key, or {path}@=VALUE to take the track away.",
                              {{"path", path}}));
    const Setting about = find_setting(changed, path);
    change_value(changed, path, from_text(about, about.value, text, path), 1);
  } else if (what.empty()) {
    set_track(changed, path, {});
    set_text(changed, path, text, path);
  } else if (what[0] == '-' || (what[0] >= '0' && what[0] <= '9')) {
    set_key(changed, path, what, text);
  } else {
    set_of_track(changed, path, what, text);
  }
  refuse_circles(changed);
  shot = std::move(changed);
}

}  // namespace pour
