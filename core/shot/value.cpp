#include "shot/value.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>
#include <mutex>

#include "base/base64.h"
#include "base/error.h"
#include "base/file.h"
#include "base/json.h"
#include "base/pixels.h"
#include "base/srgb.h"
#include "base/text.h"
#include "shape/model_file.h"
#include "shape/svg.h"
#include "shot/clock.h"
#include "shot/limits.h"
#include "shot/shipped.h"

namespace pour {
namespace {

template <class... F>
struct overloaded : F... {
  using F::operator()...;
};
template <class... F>
overloaded(F...) -> overloaded<F...>;

// ---- text

const std::string& checked(const std::string& text, const std::string& where) {
  if (text.size() > text_longest)
    throw shot_fault(where, filled("is longer than {most} bytes.", {{"most", std::to_string(text_longest)}}),
                     "Write a shorter text.");
  if (!is_utf8(text)) throw shot_fault(where, "is not valid UTF-8.", "Write it in UTF-8.");
  return text;
}

const std::string& checked_drawing(const std::string& svg, const std::string& where) {
  if (!is_utf8(svg)) throw shot_fault(where, "is no drawing as text in UTF-8.", "Choose an SVG file.");
  return svg;
}

double number(const About& s, const std::string& text, const std::string& where) {
  if (*s.zero && text == s.zero) return 0;
  return accepted(s, parse_quantity(text, s.unit, where), where);
}

int whole(const About& s, const std::string& text, const std::string& where) {
  const Unit unit = s.unit == Unit::frames ? Unit::frames : Unit::none;
  const double v = *s.zero && text == s.zero ? 0 : accepted(s, parse_quantity(text, unit, where), where);
  if (v != std::round(v))
    throw shot_fault(where, filled("“{text}” is not a whole number.", {{"text", text}}),
                     "Write a whole number.");
  return int(v);
}

bool yes_or_no(const About& s, const std::string& text, const std::string& where) {
  for (size_t i = 0; i < s.options.size(); ++i)
    if (text == s.options[i].label) return i == 1;
  for (const char* yes : {"yes", "true", "on", "1"})
    if (text == yes) return true;
  for (const char* no : {"no", "false", "off", "0"})
    if (text == no) return false;
  throw shot_fault(where, filled("“{text}” is neither yes nor no.", {{"text", text}}), "Write yes or no.");
}

Vec3d vector(const About& s, const std::string& text, const std::string& where) {
  const auto parts = split(text, ',');
  if (parts.size() != 3)
    throw shot_fault(where, "needs 3 values.", "Write them with commas, for example 1, 2, 3.");
  Vec3d out;
  for (int a = 0; a < 3; ++a) out[a] = accepted(s, parse_quantity(parts[size_t(a)], s.unit, where), where);
  return out;
}

Color color(const std::string& text, const std::string& where) {
  unsigned r = 0, g = 0, b = 0;
  if (text.size() != 7 || std::sscanf(text.c_str(), "#%02x%02x%02x", &r, &g, &b) != 3)
    throw shot_fault(where, filled("“{text}” is not a colour.", {{"text", text}}),
                     "Write it as #rrggbb, for example #8fd6b8.");
  return {from_srgb(r / 255.0), from_srgb(g / 255.0), from_srgb(b / 255.0)};
}

/// "1-40": from the beginning of a frame to the end of another; or from one second to another.
Span span_of(const About& s, const std::string& text, const std::string& where) {
  size_t dash = text.find('-', 1), width = 1;
  if (const size_t en = text.find("–"); en != std::string::npos) dash = en, width = 3;
  const std::string first = text.substr(0, dash),
                    last = dash == std::string::npos ? first : text.substr(dash + width);
  const bool frame = s.clock && last.find_first_of("sm") == std::string::npos;
  Span span{time_from_words(s, first, where), 0};
  span.to =
      frame ? s.clock->time(parse_quantity(last, Unit::none, where) + 1) : time_from_words(s, last, where);
  if (span.from < -same_time) throw shot_fault(where, "begins before frame 1.", "Begin at frame 1 or later.");
  return {accepted(s, span.from, where), accepted(s, span.to, where)};
}

std::string span_in_words(const About& s, const Span& span) {
  if (s.clock && on_frames(*s.clock, {{span}}))
    return time_in_words(s, span.from) + "-" + std::to_string(std::llround(last_frame_of(*s.clock, span)));
  return seconds_in_words(span.from) + "-" + seconds_in_words(span.to);
}

constexpr size_t most_entries = 1000;  // of a list that is one value

const Windows& checked(const About& s, const Windows& w, const std::string& where) {
  if (w.list.size() > most_entries)
    throw shot_fault(where, filled("has more than {most} windows.", {{"most", std::to_string(most_entries)}}),
                     "Remove some.");
  for (size_t i = 0; i < w.list.size(); ++i) {
    const Span& r = w.list[i];
    const std::string text = span_in_words(s, r);
    if (r.to <= r.from)
      throw shot_fault(where, filled("ends before it starts ({text}).", {{"text", text}}),
                       "Write the first frame first, for example 1-40.");
    if (i && r.from < w.list[i - 1].to - same_time)
      throw shot_fault(
          where, filled("has a window ({text}) that begins before the one before it ends.", {{"text", text}}),
          "Write them in order, for example 1-40, 60-80.");
  }
  return w;
}

Windows windows(const About& s, const std::string& text, const std::string& where) {
  Windows w;
  if (text == "never") return w;
  for (const std::string& part : split(text, ',')) w.list.push_back(span_of(s, part, where));
  return checked(s, w, where);
}

Moment moment(const About& s, const std::string& text, const std::string& where) {
  if (text == "never") return {};
  const double time = time_from_words(s, text, where);
  if (time < -same_time) throw shot_fault(where, "is before frame 1.", "Choose frame 1 or a later one.");
  return {accepted(s, time, where)};
}

const Points& checked(const Points& p, const std::string& where) {
  if (p.list.size() < 2)
    throw shot_fault(where, "has fewer than two points.", "A curve runs through two points at least.");
  if (p.list.size() > most_entries)
    throw shot_fault(where, filled("has more than {most} points.", {{"most", std::to_string(most_entries)}}),
                     "Remove some.");
  return p;
}

bool may_be_sized(const About& s) { return s.dimensions == 3; }

constexpr size_t most_drawing = 16 << 20;  // bytes

/// Gives the last point a size.
void add_size(Points& p, double size) {
  if (size == 1 && p.sizes.empty()) return;
  p.sizes.resize(p.list.size(), 1);
  p.sizes.back() = size;
}

/// The longest line of a drawing, a unit a millimetre, y upwards: a profile from its axis, a curve about the
/// middle.
Points points_of(const std::vector<Polyline>& lines, const About& s, const std::string& where) {
  constexpr double unit = 0.001;  // m
  constexpr double most = 150;    // points along it
  const auto length_of = [](const Polyline& line) {
    double sum = 0;
    for (size_t i = 1; i < line.points.size(); ++i) sum += length(line.points[i] - line.points[i - 1]);
    return sum;
  };
  const auto longest =
      std::max_element(lines.begin(), lines.end(),
                       [&](const Polyline& a, const Polyline& b) { return length_of(a) < length_of(b); });
  if (longest == lines.end() || length_of(*longest) <= 0)
    throw shot_fault(where, "is to be a path of SVG, but that has no line.",
                     "Paste the d of a path, or name an SVG file that has one.");
  Box box;
  for (const Vec3d& v : longest->points) box.add(v);
  const double apart = length_of(*longest) / most;
  Points p;
  Vec3d last;
  for (const Vec3d& v : longest->points) {
    if (!p.list.empty() && length(v - last) < apart && &v != &longest->points.back()) continue;
    last = v;
    const bool profile = s.dimensions == 2;
    Vec3d at{(v.x - (profile ? std::min(0.0, box.low.x) : box.center().x)) * unit,
             ((profile ? box.high.y : box.center().y) - v.y) * unit, 0};
    for (int a = 0; a < s.dimensions; ++a) at[a] = accepted(s, at[a], where);
    p.list.push_back(at);
  }
  return checked(p, where);
}

Points points(const About& s, const std::string& text, const std::string& where) {
  if (const size_t first = text.find_first_not_of(' ');
      first != std::string::npos && (text[first] == 'M' || text[first] == 'm'))
    return points_of(parse_path(text, 0.05), s, where);
  if (fs::path(text).extension() == ".svg")
    return points_of(svg_lines(read_whole(text, most_drawing), where), s, where);
  Points p;
  for (const std::string& part : split(text, ';')) {
    const auto numbers = split(part, ',');
    const bool sized = may_be_sized(s) && numbers.size() == 4;
    if (int(numbers.size()) != s.dimensions && !sized)
      throw shot_fault(where,
                       filled("“{part}” is not a point of {dimensions} numbers.",
                              {{"part", part}, {"dimensions", std::to_string(s.dimensions)}}),
                       s.dimensions == 2
                           ? "Write points as 1, 2; 3, 4, or paste the path of an SVG, or name its file."
                           : "Write points as 1, 2, 3; 4, 5, 6, or with a size: 4, 5, 6, 50%.");
    p.list.emplace_back();
    for (int a = 0; a < s.dimensions; ++a)
      p.list.back()[a] = accepted(s, parse_quantity(numbers[size_t(a)], s.unit, where), where);
    add_size(p, sized ? accepted(point_size_limits(), parse_quantity(numbers[3], Unit::percent, where), where)
                      : 1);
  }
  return checked(p, where);
}

/// A file that was read, with its origin.
template <class Kind, class Read>
Kind from_file(const fs::path& file, const Read& read) {
  const fs::path whole = true_path(file);
  const std::string print = print_of(whole);  // before: what changes while it is read has changed since
  return {file.filename().string(), std::make_shared<const std::string>(read()), whole.string(), print};
}

/// From typed text: a file name, or SVG.
Drawing drawing(const Drawing& like, const std::string& text, const std::string& where) {
  if (text == like.name) return like;
  if (text.find("<svg") != std::string::npos)
    return {"Pasted drawing", std::make_shared<const std::string>(text)};
  return from_file<Drawing>(text, [&] { return checked_drawing(read_whole(text, most_drawing), where); });
}

ModelFile model(const ModelFile& like, const std::string& text) {
  return text == like.name ? like : model_from(text);
}

PictureFile picture(const PictureFile& like, const std::string& text) {
  if (text == like.name) return like;
  if (text.empty() || text == "none") return {};
  return from_file<PictureFile>(text, [&] { return read_picture(text); });
}

Links links(const std::string& text, const std::string& where) {
  Links out;
  if (text.empty() || text == "all") return out;
  for (const std::string& part : split(text, ',')) {
    const size_t first = part.find_first_not_of(' '), last = part.find_last_not_of(' ');
    if (first == std::string::npos)
      throw shot_fault(where, "names nothing between two commas.", "Write ids as bottle, tea.");
    out.ids.push_back(checked(part.substr(first, last - first + 1), where));
  }
  if (out.ids.size() > most_entries)
    throw shot_fault(where, filled("names more than {most}.", {{"most", std::to_string(most_entries)}}),
                     "Remove some.");
  return out;
}

Choice choice(const About& s, const std::string& text, const std::string& where) {
  std::string known;
  for (size_t i = 0; i < s.options.size(); ++i) {
    if (text == s.options[i].key || text == s.options[i].label) return {int(i)};
    known += (known.empty() ? "" : ", ") + std::string(s.options[i].key);
  }
  throw shot_fault(where, filled("“{text}” is not one of its choices.", {{"text", text}}),
                   filled("Choose one of {known}.", {{"known", known}}));
}

Choices choices(const About& s, const std::string& text, const std::string& where) {
  Choices out{0};
  for (const std::string& part : split(text, ',')) {
    const size_t first = part.find_first_not_of(' '), last = part.find_last_not_of(' ');
    out.bits |=
        1u << choice(s, first == std::string::npos ? "" : part.substr(first, last - first + 1), where).index;
  }
  return out;
}

/// The chosen options, by their keys or labels, with `between` them.
std::string listed(const About& s, Choices chosen, const char* Option::*words, const char* between) {
  std::string out;
  for (size_t i = 0; i < s.options.size(); ++i)
    if (chosen.has(int(i))) out += (out.empty() ? "" : between) + std::string(s.options[i].*words);
  return out;
}

// ---- JSON

Fault wrong(const Json& j, const std::string& where, const char* wanted) {
  return shot_fault(where, filled("is {value} in the file.", {{"value", shown(j)}}),
                    filled("It should be {wanted}.", {{"wanted", wanted}}));
}

double number(const Json& j, const std::string& where, const char* wanted = "a number") {
  if (!j.is_number()) throw wrong(j, where, wanted);
  return j.get<double>();
}

int whole(const Json& j, const std::string& where) {
  const double v = number(j, where, "a whole number");
  if (v != std::round(v)) throw wrong(j, where, "a whole number");
  constexpr double most = 2147483647;
  return int(std::clamp(v, -most, most));
}

Vec3d three(const Json& j, const std::string& where) {
  if (!j.is_array() || j.size() != 3) throw wrong(j, where, "a list of three numbers");
  Vec3d out;
  for (int a = 0; a < 3; ++a) out[a] = number(j[size_t(a)], where, "a list of three numbers");
  return out;
}

Windows windows(const About& s, const Json& j, const std::string& where) {
  Windows w;
  if (!j.is_array()) throw wrong(j, where, "a list of windows, each of two times");
  for (const Json& e : j) {
    if (!e.is_array() || e.size() != 2) throw wrong(e, where, "two times in seconds, the first one first");
    w.list.push_back({number(e[0], where), number(e[1], where)});
  }
  return checked(s, w, where);
}

Moment moment(const Json& j, const std::string& where) {
  if (j.is_null()) return {};
  return {number(j, where, "a time in seconds, or null for never")};
}

Points points(const About& s, const Json& j, const std::string& where) {
  Points p;
  if (!j.is_array()) throw wrong(j, where, "a list of points");
  for (const Json& e : j) {
    const bool sized = may_be_sized(s) && e.is_array() && e.size() == 4;
    if (!e.is_array() || (int(e.size()) != s.dimensions && !sized))
      throw wrong(e, where, s.dimensions == 2 ? "a list of two numbers" : "a list of three or four numbers");
    p.list.emplace_back();
    for (int a = 0; a < s.dimensions; ++a) p.list.back()[a] = number(e[size_t(a)], where);
    if (sized && !e[3].is_number()) throw wrong(e[3], where, "a number");
    add_size(p, sized ? e[3].get<double>() : 1);
  }
  return checked(p, where);
}

const std::string& word(const Json& j, const std::string& where) {
  if (!j.is_string()) throw wrong(j, where, "a word in quotes");
  return j.get_ref<const std::string&>();
}

/// Everything kept of a file except its bytes.
template <class Kind>
Kind origin(const Json& j, const std::string& where) {
  Kind k{checked(word(j["name"], where), where), nullptr};
  if (j.contains("from")) k.from = checked(word(j["from"], where), where);
  if (j.contains("print")) k.print = checked(word(j["print"], where), where);
  return k;
}

ModelFile model(const Json& j, const std::string& where) {
  if (!j.is_object() || !j.contains("name") || !j.contains("mesh"))
    throw wrong(j, where, "a model with its name and its mesh");
  ModelFile m = origin<ModelFile>(j, where);
  std::string bytes;
  if (!from_base64(word(j["mesh"], where), bytes)) throw wrong(j["mesh"], where, "a mesh in base64");
  if (bytes.empty()) return m;
  (void)unpack_model(bytes, where);
  m.bytes = std::make_shared<const std::string>(std::move(bytes));
  return m;
}

PictureFile picture(const Json& j, const std::string& where) {
  if (!j.is_object() || !j.contains("name") || !j.contains("picture"))
    throw wrong(j, where, "a picture with its name and its bytes");
  PictureFile p = origin<PictureFile>(j, where);
  std::string bytes;
  if (!from_base64(word(j["picture"], where), bytes)) throw wrong(j["picture"], where, "a picture in base64");
  if (bytes.empty()) return p;
  if (!is_kept_kind(bytes)) throw wrong(j["picture"], where, "a PNG or an EXR in base64");
  p.bytes = std::make_shared<const std::string>(std::move(bytes));
  (void)unpack_picture(p.bytes, where);
  return p;
}

Links links(const Json& j, const std::string& where) {
  Links out;
  if (!j.is_array() || j.size() > most_entries) throw wrong(j, where, "a list of ids");
  for (const Json& e : j) out.ids.push_back(checked(word(e, where), where));
  return out;
}

Choices choices(const About& s, const Json& j, const std::string& where) {
  if (!j.is_array()) return choices(s, word(j, where), where);
  if (j.empty() || j.size() > s.options.size()) throw wrong(j, where, "a list of choices");
  Choices out{0};
  for (const Json& e : j) out.bits |= 1u << choice(s, word(e, where), where).index;
  return out;
}

Json points_as_json(const Points& p, int dimensions) {
  Json out = Json::array();
  for (size_t i = 0; i < p.list.size(); ++i) {
    out.push_back(Json::array());
    for (int a = 0; a < dimensions; ++a) out.back().push_back(p.list[i][a]);
    if (!p.sizes.empty()) out.back().push_back(p.sizes[i]);
  }
  return out;
}

}  // namespace

namespace {

/// A shipped file, read once.
template <class Kind, class Read>
Kind shipped(const fs::path& file, const Read& read) {
  static std::map<std::string, Kind> known;
  static std::mutex mutex;
  const std::lock_guard lock(mutex);
  Kind& k = known[file.filename().string()];
  if (!k.bytes) try {
      k = {file.filename().string(), std::make_shared<const std::string>(read(file))};
    } catch (const Fault&) {  // the piece says that it has none
      k.name = file.filename().string();
    }
  return k;
}

}  // namespace

Drawing shipped_drawing(const std::string& file) {
  return shipped<Drawing>(share_folder() / "marks" / file,
                          [](const fs::path& f) { return read_whole(f, most_drawing); });
}

ModelFile model_from(const std::string& file, const StopAsked& stop) {
  return from_file<ModelFile>(file, [&] { return read_model(file, stop); });
}

ModelFile shipped_model(const std::string& file) {
  return shipped<ModelFile>(share_folder() / "models" / file,
                            [](const fs::path& f) { return read_model(f); });
}

PictureFile shipped_label(const std::string& file) {
  return shipped<PictureFile>(share_folder() / "labels" / file, read_picture);
}

bool Links::has(const std::string& id) const {
  return ids.empty() || std::find(ids.begin(), ids.end(), id) != ids.end();
}

std::string hex(const Color& c) {
  char b[16];
  const auto q = [](double v) { return int(std::lround(std::clamp(to_srgb(v), 0.0, 1.0) * 255)); };
  std::snprintf(b, sizeof b, "#%02x%02x%02x", q(c.r), q(c.g), q(c.b));
  return b;
}

std::string to_text(const About& s, const Value& value) {
  const auto number = [&](double v) { return format_quantity(v, s.unit, 6); };
  return std::visit(overloaded{
                        [&](double v) { return v == 0 && *s.zero ? s.zero : number(v); },
                        [&](int v) { return v == 0 && *s.zero ? s.zero : std::to_string(v); },
                        [](bool v) { return std::string(v ? "yes" : "no"); },
                        [](const std::string& v) { return v; },
                        [&](const Vec3d& v) { return number(v.x) + ", " + number(v.y) + ", " + number(v.z); },
                        [](const Color& v) { return hex(v); },
                        [&](const Windows& v) {
                          std::string out;
                          for (const Span& r : v.list) out += (out.empty() ? "" : ", ") + span_in_words(s, r);
                          return out.empty() ? "never" : out;
                        },
                        [&](const Moment& v) { return v.time ? time_in_words(s, *v.time) : "never"; },
                        [&](const Points& v) {
                          std::string out;
                          for (size_t i = 0; i < v.list.size(); ++i) {
                            for (int a = 0; a < s.dimensions; ++a)
                              out += (out.empty() ? "" : a ? ", " : "; ") + number(v.list[i][a]);
                            if (!v.sizes.empty()) out += ", " + format_quantity(v.sizes[i], Unit::percent, 9);
                          }
                          return out;
                        },
                        [](const Dependence& v) { return to_text(v); },
                        [&](const Choice& v) { return std::string(s.options[size_t(v.index)].key); },
                        [&](const Choices& v) { return listed(s, v, &Option::key, ", "); },
                        [](const PieceId& v) { return v.id; },
                        [](const FluidId& v) { return v.id; },
                        [](const MaterialId& v) { return v.id; },
                        [](const FontName& v) { return v.name; },
                        [](const Drawing& v) { return v.name; },
                        [](const ModelFile& v) { return v.name; },
                        [](const PictureFile& v) { return v.name; },
                        [](const Links& v) {
                          std::string out;
                          for (const std::string& id : v.ids) out += (out.empty() ? "" : ", ") + id;
                          return out.empty() ? "all" : out;
                        },
                    },
                    value);
}

Value from_text(const About& s, const Value& like, const std::string& text, const std::string& where) {
  return std::visit(overloaded{
                        [&](double) -> Value { return number(s, text, where); },
                        [&](int) -> Value { return whole(s, text, where); },
                        [&](bool) -> Value { return yes_or_no(s, text, where); },
                        [&](const std::string&) -> Value { return checked(text, where); },
                        [&](const Vec3d&) -> Value { return vector(s, text, where); },
                        [&](const Color&) -> Value { return color(text, where); },
                        [&](const Windows&) -> Value { return windows(s, text, where); },
                        [&](const Moment&) -> Value { return moment(s, text, where); },
                        [&](const Points&) -> Value { return points(s, text, where); },
                        [&](const Dependence&) -> Value { return dependence_from_text(text, where); },
                        [&](const Choice&) -> Value { return choice(s, text, where); },
                        [&](const Choices&) -> Value { return choices(s, text, where); },
                        [&](const PieceId&) -> Value { return PieceId{checked(text, where)}; },
                        [&](const FluidId&) -> Value { return FluidId{checked(text, where)}; },
                        [&](const MaterialId&) -> Value { return MaterialId{checked(text, where)}; },
                        [&](const FontName&) -> Value { return FontName{checked(text, where)}; },
                        [&](const Drawing& v) -> Value { return drawing(v, text, where); },
                        [&](const ModelFile& v) -> Value { return model(v, text); },
                        [&](const PictureFile& v) -> Value { return picture(v, text); },
                        [&](const Links&) -> Value { return links(text, where); },
                    },
                    like);
}

std::string to_words(const About& s, const Value& value, int digits) {
  const auto numbers = [](std::initializer_list<double> values) {
    std::string out;
    for (const double v : values) {
      char text[32];
      std::snprintf(text, sizeof text, "%s%.17g", out.empty() ? "" : ", ", v);
      out += text;
    }
    return out;
  };
  return std::visit(
      overloaded{
          [&](double v) { return digits > 12 ? numbers({v}) : format_quantity(v, s.unit, digits); },
          [&](const Vec3d& v) {
            if (digits > 6) return numbers({v.x, v.y, v.z});
            std::string out;
            for (int a = 0; a < 3; ++a) out += (a ? ", " : "") + format_quantity(v[a], s.unit, digits);
            return out;
          },
          [&](const Color& v) {
            return digits > 6 ? numbers({v.r, v.g, v.b}) : hex(v);
          },
          [&](const Choice& v) { return std::string(s.options[size_t(v.index)].label); },
          [&](const Choices& v) { return listed(s, v, &Option::label, " and "); },
          [&](bool v) { return s.options.empty() ? to_text(s, value) : std::string(s.options[v].label); },
          [&](const Points& v) {
            return digits > 6 ? to_text(s, value) : std::to_string(v.list.size()) + " points";
          },
          [&](const auto&) { return to_text(s, value); },
      },
      value);
}

namespace {

template <class Kind>
Json enclosed(const Enclosed<Kind>& v, const char* key, const std::string& bytes) {
  Json out{{"name", v.name}};
  if (!v.from.empty()) out["from"] = v.from, out["print"] = v.print;
  out[key] = bytes;
  return out;
}

}  // namespace

Json to_json(const About& s, const Value& value) {
  return std::visit(
      overloaded{
          [](const Vec3d& v) -> Json {
            return {v.x, v.y, v.z};
          },
          [](const Color& v) -> Json {
            return {v.r, v.g, v.b};
          },
          [](const Windows& v) -> Json {
            Json out = Json::array();
            for (const Span& r : v.list) out.push_back({r.from, r.to});
            return out;
          },
          [](const Moment& v) -> Json { return v.time ? Json(*v.time) : Json(); },
          [&](const Points& v) -> Json { return points_as_json(v, s.dimensions); },
          [](const Dependence& v) -> Json { return to_json(v); },
          [&](const Choice& v) -> Json { return s.options[size_t(v.index)].key; },
          [&](const Choices& v) -> Json {
            Json out = Json::array();
            for (size_t i = 0; i < s.options.size(); ++i)
              if (v.has(int(i))) out.push_back(s.options[i].key);
            return out;
          },
          [](const PieceId& v) -> Json { return v.id; },
          [](const FluidId& v) -> Json { return v.id; },
          [](const MaterialId& v) -> Json { return v.id; },
          [](const FontName& v) -> Json { return v.name; },
          [](const Drawing& v) -> Json { return enclosed(v, "svg", v.content()); },
          [](const ModelFile& v) -> Json { return enclosed(v, "mesh", to_base64(v.content())); },
          [](const PictureFile& v) -> Json { return enclosed(v, "picture", to_base64(v.content())); },
          [](const Links& v) -> Json {
            Json out = Json::array();
            for (const std::string& id : v.ids) out.push_back(id);
            return out;
          },
          [](const auto& v) -> Json { return v; },
      },
      value);
}

Value from_json(const About& s, const Value& like, const Json& j, const std::string& where) {
  return std::visit(
      overloaded{
          [&](double) -> Value { return number(j, where); },
          [&](int) -> Value { return whole(j, where); },
          [&](bool) -> Value {
            if (!j.is_boolean()) throw wrong(j, where, "true or false");
            return j.get<bool>();
          },
          [&](const Vec3d&) -> Value { return three(j, where); },
          [&](const Color&) -> Value {
            const Vec3d v = three(j, where);
            return Color{v.x, v.y, v.z};
          },
          [&](const Windows&) -> Value { return windows(s, j, where); },
          [&](const Moment&) -> Value { return moment(j, where); },
          [&](const Choices&) -> Value { return choices(s, j, where); },
          [&](const Points&) -> Value { return points(s, j, where); },
          [&](const Dependence&) -> Value { return dependence_from_json(j, where); },
          [&](const ModelFile&) -> Value { return model(j, where); },
          [&](const PictureFile&) -> Value { return picture(j, where); },
          [&](const Links&) -> Value { return links(j, where); },
          [&](const Drawing&) -> Value {
            if (!j.is_object() || !j.contains("name") || !j.contains("svg"))
              throw wrong(j, where, "a drawing with its name and its svg");
            Drawing d = origin<Drawing>(j, where);
            d.bytes = std::make_shared<const std::string>(checked_drawing(word(j["svg"], where), where));
            return d;
          },
          [&](const auto&) -> Value { return from_text(s, like, word(j, where), where); },
      },
      like);
}

}  // namespace pour
