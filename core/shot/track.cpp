#include "shot/track.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/error.h"
#include "base/json.h"
#include "base/text.h"
#include "shot/clock.h"
#include "shot/limits.h"

namespace pour {

const Option ease_names[4] = {
    {"hold", "Hold"}, {"linear", "Linear"}, {"smooth", "Smooth"}, {"own", "Own handles"}};
const Option beyond_names[4] = {
    {"stays", "Stays"}, {"repeats", "Repeats"}, {"swings", "Back and forth"}, {"adds", "Goes on adding"}};

std::string key_path(const std::string& path, double time) {
  return path + "@" + format_quantity(time, Unit::none, 9) + "s";
}

bool can_mix(const Value& v) { return parts_of(v) > 0; }

int parts_of(const Value& v) {
  if (std::holds_alternative<double>(v)) return 1;
  return std::holds_alternative<Vec3d>(v) || std::holds_alternative<Color>(v) ? 3 : 0;
}

double part_of(const Value& v, int part) {
  if (const auto* d = std::get_if<double>(&v)) return *d;
  if (const auto* p = std::get_if<Vec3d>(&v)) return (*p)[part];
  const Color& c = std::get<Color>(v);
  return part == 0 ? c.r : part == 1 ? c.g : c.b;
}

void set_part(Value& v, int part, double to) {
  if (auto* d = std::get_if<double>(&v))
    *d = to;
  else if (auto* p = std::get_if<Vec3d>(&v))
    (*p)[part] = to;
  else {
    Color& c = std::get<Color>(v);
    (part == 0 ? c.r : part == 1 ? c.g : c.b) = to;
  }
}

bool can_animate(const About& s, const Value& like) {
  const bool kind =
      can_mix(like) || std::holds_alternative<bool>(like) || std::holds_alternative<Choice>(like);
  return kind && !s.fixed &&
         (s.touches == Touches::picture || s.touches == Touches::light || s.touches == Touches::flow ||
          s.touches == Touches::pose || s.touches == Touches::clock);
}

const Key* Track::key_at(double time) const {
  for (const Key& k : keys)
    if (std::abs(k.time - time) < same_time) return &k;
  return nullptr;
}

void Track::set_key(double time, const Value& value) {
  if (const Key* there = key_at(time)) {
    keys[size_t(there - keys.data())].value = value;
    return;
  }
  Key key{time, value, Ease::smooth, {}};
  const auto next = std::find_if(keys.begin(), keys.end(), [&](const Key& k) { return k.time > time; });
  if (next != keys.begin()) key.ease = (next - 1)->ease, key.handles = (next - 1)->handles;
  keys.insert(next, key);
}

double bezier_ease(const Handles& h, double time) {
  const double x1 = std::clamp(h.out_time, 0.0, 1.0), x2 = std::clamp(h.in_time, 0.0, 1.0);
  const auto along = [](double a, double b, double t) {
    return 3 * (1 - t) * (1 - t) * t * a + 3 * (1 - t) * t * t * b + t * t * t;
  };
  // Time increases along the curve, so bisection finds the parameter.
  double low = 0, high = 1;
  for (int i = 0; i < 60; ++i) {
    const double middle = (low + high) / 2;
    (along(x1, x2, middle) < time ? low : high) = middle;
  }
  return along(h.out_way, h.in_way, (low + high) / 2);
}

namespace {

/// Whether a key has a word that is no number, which can't be mixed.
bool keeps(const About& s, const Key& k) {
  const auto* v = std::get_if<double>(&k.value);
  return s.zero_holds && v && *v == 0;
}

/// Slope at a key of a monotone cubic through all keys (Fritsch & Carlson 1980, with the mean of Fritsch &
/// Butland 1984), a second; level at both ends, and beside a word.
double slope(const About& s, const std::vector<Key>& keys, size_t i, int part) {
  if (i == 0 || i + 1 == keys.size() || keeps(s, keys[i - 1]) || keeps(s, keys[i + 1])) return 0;
  const double before = keys[i].time - keys[i - 1].time, after = keys[i + 1].time - keys[i].time;
  const double a = (part_of(keys[i].value, part) - part_of(keys[i - 1].value, part)) / before,
               b = (part_of(keys[i + 1].value, part) - part_of(keys[i].value, part)) / after;
  if (a * b <= 0) return 0;
  const double wa = 2 * after + before, wb = after + 2 * before;
  return (wa + wb) / (wa / a + wb / b);
}

/// Between the first key and the last one.
double within(const About& s, const std::vector<Key>& keys, double time, int part) {
  const auto next =
      std::upper_bound(keys.begin(), keys.end(), time, [](double t, const Key& k) { return t < k.time; });
  if (next == keys.begin()) return part_of(keys.front().value, part);
  const size_t i = size_t(next - keys.begin()) - 1;
  const double v0 = part_of(keys[i].value, part);
  if (next == keys.end() || keys[i].ease == Ease::hold || keeps(s, keys[i]) || keeps(s, *next)) return v0;
  const double v1 = part_of(next->value, part), span = next->time - keys[i].time;
  const double t = (time - keys[i].time) / span;
  switch (keys[i].ease) {
    case Ease::linear:
      return v0 + (v1 - v0) * t;
    case Ease::own:
      return v0 + (v1 - v0) * bezier_ease(keys[i].handles, t);
    default: {
      const double m0 = slope(s, keys, i, part) * span, m1 = slope(s, keys, i + 1, part) * span;
      return (1 + 2 * t) * (1 - t) * (1 - t) * v0 + t * (1 - t) * (1 - t) * m0 + t * t * (3 - 2 * t) * v1 +
             t * t * (t - 1) * m1;
    }
  }
}

/// A time within the keys that has the value of one beyond them, and how often what happens between the
/// first and the last key comes on top.
std::pair<double, double> folded(const Track& track, double time) {
  const double first = track.keys.front().time, last = track.keys.back().time, span = last - first;
  const Beyond beyond = time < first ? track.before : track.after;
  if ((time >= first && time <= last) || span <= 0 || beyond == Beyond::stays)
    return {std::clamp(time, first, last), 0};
  const double rounds = std::floor((time - first) / span);
  const double rest = time - first - rounds * span;
  if (beyond == Beyond::swings && std::fmod(std::abs(rounds), 2) == 1) return {last - rest, 0};
  return {first + rest, beyond == Beyond::adds ? rounds : 0};
}

/// A sum of waves between half the rate and the rate, at most about 1.
double unrest(int seed, int part, double rate, double seconds) {
  constexpr int waves = 6;
  uint64_t state = uint64_t(seed) * 0x9E3779B97F4A7C15ull + uint64_t(part + 1) * 0xD1B54A32D192ED03ull;
  const auto chance = [&] {  // splitmix64 (Steele, Lea & Flood 2014)
    uint64_t z = (state += 0x9E3779B97F4A7C15ull);
    z = (z ^ (z >> 30)) * 0xBF58476D1CE4E5B9ull, z = (z ^ (z >> 27)) * 0x94D049BB133111EBull;
    return double((z ^ (z >> 31)) >> 11) * 0x1p-53;
  };
  double sum = 0;
  for (int i = 0; i < waves; ++i) {
    const double turns = rate * (0.5 + 0.5 * chance()), phase = chance();
    sum += std::sin(2 * std::numbers::pi * (turns * seconds + phase));
  }
  return sum / std::sqrt(2.0 * waves);
}

/// Within the limits, and never 0 if 0 has a word: interpolated values are numbers.
double as_number(const About& s, double v) {
  v = std::clamp(v, s.low, s.high);
  const bool has_word = s.zero_holds || s.zero_is > 0;
  return has_word && v <= 0 ? 1e-6 * s.slider_high : v;
}

/// A track with the number that the word for 0 stands for in its place.
Track in_numbers(const About& s, Track track) {
  for (Key& k : track.keys)
    if (auto* v = std::get_if<double>(&k.value); v && *v == 0) *v = s.zero_is;
  return track;
}

}  // namespace

Value evaluate(const About& s, const Track& track, double time) {
  const auto is_word = [](const Key& k) {
    const auto* v = std::get_if<double>(&k.value);
    return v && *v == 0;
  };
  if (s.zero_is > 0 && std::any_of(track.keys.begin(), track.keys.end(), is_word))
    return evaluate(s, in_numbers(s, track), time);
  const auto [at, rounds] = folded(track, time);
  Value out = track.keys.front().value;
  const int parts = parts_of(out);
  if (parts == 0) {
    for (const Key& k : track.keys)
      if (k.time <= at + same_time) out = k.value;
    return out;
  }
  for (int p = 0; p < parts; ++p) {
    double v = within(s, track.keys, at, p);
    if (s.zero_holds && v == 0) {  // a word: nothing comes on top of it
      set_part(out, p, 0);
      continue;
    }
    if (rounds != 0)
      v += rounds * (part_of(track.keys.back().value, p) - part_of(track.keys.front().value, p));
    if (track.wobble.amount[p] != 0)
      v += track.wobble.amount[p] * unrest(track.wobble.seed, p, track.wobble.rate[p], time);
    set_part(out, p, as_number(s, v));
  }
  return out;
}

std::string to_text(const About& s, const Track& track) {
  std::string out;
  for (const Key& k : track.keys) {
    out += (out.empty() ? "" : ", ") + time_in_words(s, k.time) + ": " + to_text(s, k.value);
    if (can_mix(k.value) && &k != &track.keys.back()) out += std::string(" ") + ease_names[int(k.ease)].key;
  }
  if (track.before != Beyond::stays) out += std::string("; before: ") + beyond_names[int(track.before)].key;
  if (track.after != Beyond::stays) out += std::string("; after: ") + beyond_names[int(track.after)].key;
  if (track.wobble.any()) out += "; wobbles";
  return out;
}

// ---- JSON

namespace {

Json three(const Vec3d& v) { return {v.x, v.y, v.z}; }

Vec3d three(const Json& j, const std::string& where, double low, double high) {
  if (!j.is_array() || j.size() != 3)
    throw shot_fault(where, filled("is {value} in the file.", {{"value", shown(j)}}),
                     "It should be a list of three numbers.");
  Vec3d v;
  for (int a = 0; a < 3; ++a) {
    const Json& e = j[size_t(a)];
    if (!e.is_number() || !std::isfinite(e.get<double>()) || e.get<double>() < low || e.get<double>() > high)
      throw shot_fault(where, filled("has {value} in the file.", {{"value", shown(e)}}),
                       "It should be a number that makes sense there.");
    v[a] = e.get<double>();
  }
  return v;
}

int option(const Json& object, const char* key, const Option (&names)[4], int usual,
           const std::string& where) {
  if (!object.contains(key)) return usual;
  std::string known;
  for (int i = 0; i < 4; ++i) {
    if (object[key] == names[i].key) return i;
    known += (i ? ", " : "") + std::string(names[i].key);
  }
  throw shot_fault(where + " " + key, filled("is {key} in the file.", {{"key", shown(object[key])}}),
                   filled("Choose one of {known}.", {{"known", known}}));
}

void refuse_unknown(const Json& j, const std::vector<std::string>& known, const std::string& where) {
  for (const auto& [key, value] : j.items())
    if (std::find(known.begin(), known.end(), key) == known.end()) {
      const std::string near = nearest(key, known);
      throw shot_fault(where, filled("“{key}” is nothing that it has.", {{"key", key}}),
                       did_you_mean(near, "Remove it."));
    }
}

Key key_from(const About& s, const Value& like, const Json& j, const std::string& path,
             const std::string& where, std::vector<OutOfRange>& found) {
  if (!j.is_object()) throw shot_fault(where, "has a key that is none.", "Write it in braces { }.");
  refuse_unknown(j, {"time", "value", "ease", "handles"}, where);
  Key k;
  k.time = number_in(j, "time", -last_key_time, last_key_time, where);
  const std::string place =
      filled("{where}, key at {time}", {{"where", where}, {"time", time_in_words(s, k.time)}});
  if (!j.contains("value")) throw shot_fault(place, "has no value.", "Give it one, or remove it.");
  k.value = kept_within(s, from_json(s, like, j["value"], place), key_path(path, k.time), found);
  k.ease = Ease(option(j, "ease", ease_names, int(Ease::smooth), place));
  if (j.contains("handles")) {
    const Json& h = j["handles"];
    if (!h.is_array() || h.size() != 4)
      throw shot_fault(place, "has handles that are none.", "They should be four numbers.");
    double v[4];
    for (size_t i = 0; i < 4; ++i) {
      const double most = i % 2 ? 100 : 1, least = i % 2 ? -100 : 0;
      if (!h[i].is_number() || !(h[i].get<double>() >= least && h[i].get<double>() <= most))
        throw shot_fault(place, filled("has {value} in its handles.", {{"value", shown(h[i])}}),
                         "Times are from 0 to 1, ways from −100 to 100.");
      v[i] = h[i].get<double>();
    }
    k.handles = {v[0], v[1], v[2], v[3]};
  }
  return k;
}

}  // namespace

Json to_json(const About& s, const Track& track) {
  Json keys = Json::array();
  for (const Key& k : track.keys) {
    Json j{{"time", k.time}, {"value", to_json(s, k.value)}, {"ease", ease_names[int(k.ease)].key}};
    if (!(k.handles == Handles()))
      j["handles"] = {k.handles.out_time, k.handles.out_way, k.handles.in_time, k.handles.in_way};
    keys.push_back(std::move(j));
  }
  Json out{{"keys", std::move(keys)}};
  if (track.before != Beyond::stays) out["before"] = beyond_names[int(track.before)].key;
  if (track.after != Beyond::stays) out["after"] = beyond_names[int(track.after)].key;
  if (!(track.wobble == Wobble()))
    out["wobble"] = {{"amount", three(track.wobble.amount)},
                     {"rate", three(track.wobble.rate)},
                     {"seed", track.wobble.seed}};
  return out;
}

Track track_from_json(const About& s, const Value& like, const Json& j, const std::string& path,
                      const std::string& where, std::vector<OutOfRange>& found) {
  if (!j.is_object()) throw shot_fault(where, "is no track.", "Write it in braces { }, with its keys.");
  refuse_unknown(j, {"keys", "before", "after", "wobble"}, where);
  if (!can_animate(s, like)) throw shot_fault(where, "can't change within a shot.", "Remove its track.");
  Track track;
  if (!j.contains("keys") || !j["keys"].is_array() || j["keys"].empty())
    throw shot_fault(where, "has no keys.", "Give it one, or remove the track.");
  if (j["keys"].size() > most_keys)
    throw shot_fault(where, filled("has more than {most} keys.", {{"most", std::to_string(most_keys)}}),
                     "Remove some of them.");
  for (const Json& k : j["keys"]) track.keys.push_back(key_from(s, like, k, path, where, found));
  std::stable_sort(track.keys.begin(), track.keys.end(),
                   [](const Key& a, const Key& b) { return a.time < b.time; });
  for (size_t i = 1; i < track.keys.size(); ++i)
    if (track.keys[i].time - track.keys[i - 1].time < same_time)
      throw shot_fault(where,
                       filled("has two keys at {time}.", {{"time", time_in_words(s, track.keys[i].time)}}),
                       "Remove one of them.");
  track.before = Beyond(option(j, "before", beyond_names, 0, where));
  track.after = Beyond(option(j, "after", beyond_names, 0, where));
  if (j.contains("wobble")) {
    const Json& w = j["wobble"];
    if (!w.is_object()) throw shot_fault(where, "has a wobble that is none.", "Write it in braces { }.");
    refuse_unknown(w, {"amount", "rate", "seed"}, where + " wobble");
    if (w.contains("amount")) track.wobble.amount = three(w["amount"], where + " wobble", -1e6, 1e6);
    if (w.contains("rate")) track.wobble.rate = three(w["rate"], where + " wobble", 0, 1000);
    if (w.contains("seed")) track.wobble.seed = whole_in(w, "seed", 0, 1000000000, where + " wobble");
  }
  return track;
}

}  // namespace pour
