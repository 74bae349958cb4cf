#include "shot/describe.h"

#include <algorithm>
#include <functional>
#include <iterator>
#include <stdexcept>

#include "base/error.h"
#include "base/text.h"
#include "shot/clock.h"
#include "shot/items.h"
#include "shot/out_of_range.h"

namespace pour {

const Setting* Group::find(const std::string& wanted) const {
  for (const Setting& s : settings)
    if (s.key == wanted) return &s;
  return nullptr;
}

bool Piece::may_show() const {
  const auto track = tracks.find("shows");
  if (track == tracks.end()) return shows;
  const auto& keys = track->second.keys;
  return std::any_of(keys.begin(), keys.end(), [](const Key& k) { return std::get<bool>(k.value); });
}

const Piece* Shot::piece(const std::string& id) const {
  for (const Piece& p : pieces)
    if (p.id == id) return &p;
  return nullptr;
}

Light& Look::light(const std::string& id) {
  for (Light& l : lights)
    if (l.id == id) return l;
  throw std::out_of_range("no light " + id);
}

const Fluid* Shot::fluid(const std::string& id) const {
  for (const Fluid& f : fluids)
    if (f.id == id) return &f;
  return nullptr;
}

bool Shot::brings(const Pour& p, FlowKind flow) const {
  const Fluid* f = fluid(p.fluid.id);
  return f && f->flow() == flow;
}

bool Shot::brings(FlowKind flow) const {
  for (const Pour& p : pours)
    if (brings(p, flow)) return true;
  return false;
}

const Material* Shot::material(const std::string& id) const {
  for (const Material& m : materials)
    if (m.id == id) return &m;
  return nullptr;
}

const Force* Shot::force(const std::string& id) const {
  for (const Force& f : forces)
    if (f.id == id) return &f;
  return nullptr;
}

const Pour* Shot::pour(const std::string& id) const {
  for (const Pour& p : pours)
    if (p.id == id) return &p;
  return nullptr;
}

namespace {

/// Whether a value is one in frames of the film.
bool is_timed(const Value& v) {
  return std::holds_alternative<Windows>(v) || std::holds_alternative<Moment>(v);
}

/// `clock` gives the clock of the shot, which takes long where that changes.
template <class T, class C>
Setting setting_of(const Shot& shot, const T& item, const Row<T>& row, const C& clock) {
  Setting s{row.about(shot, item), row.get(item), row.has_effect(shot, item), {}};
  if (const auto track = item.tracks.find(row.key); track != item.tracks.end()) s.track = track->second;
  if (s.track || is_timed(s.value)) s.clock = clock();
  return s;
}

}  // namespace

namespace {

std::string sentence_of(const Shot&, const Piece& p) {
  return std::string(pour::sentence_of(p.shape)) + (p.holds    ? " It {holds} and {shows} ."
                                                    : p.blocks ? " It {blocks} and {shows} ."
                                                               : " It {holds} , {blocks} and {shows} .");
}
std::string sentence_of(const Shot& shot, const Pour& p) {
  std::string full;
  if (p.fill_at.time)
    full = on_frames(Clock(shot), {{{*p.fill_at.time, *p.fill_at.time}}}) ? " at frame {fill_at} ."
                                                                          : " at {fill_at} .";
  if (p.from == SourceKind::piece && p.replaces_source && p.fill_at.time && p.windows.list.empty())
    return "{source} turns into {fluid}" + full;
  const std::string from = p.from == SourceKind::piece ? "{fluid} from {source_type} , {source} ,"
                                                       : "{fluid} from {source_type} , {seed_place} ,";
  const std::string windows = p.windows.list.empty()              ? " {windows} ."
                              : on_frames(Clock(shot), p.windows) ? " in frames {windows} ."
                                                                  : " at {windows} .";
  const std::string when = from + windows + (p.fill_at.time ? " Full" + full : "");
  if (shot.brings(p, FlowKind::liquid))
    return when + " It pours " + (p.volume > 0 ? "{volume} in all" : "{rate}") + " at {speed} {direction} .";
  return when + " {mode} " + (p.mode == PourMode::sets ? "{density} ." : "{density_rate} .");
}
std::string sentence_of(const Shot&, const Film& f) {
  return f.capture > 0 || f.tracks.contains("capture")
             ? "{frames} frames at {frame_rate} frames per second, filmed at {capture} ."
             : "{frames} frames at {frame_rate} frames per second.";
}
std::string sentence_of(const Shot& shot, const Force& f) {
  const std::string does = std::visit([](const auto& kind) { return kind.sentence; }, f.what);
  return does +
         (f.always                            ? ""
          : f.windows.list.empty()            ? " In {windows} ."
          : on_frames(Clock(shot), f.windows) ? " In frames {windows} ."
                                              : " At {windows} .") +
         (f.reach == Reach::Shape::everywhere ? "" : " Acts {reach_side} {reach} .") +
         (f.depends.driver == Driver::none ? "" : " Its strength follows a curve.");
}
std::string sentence_of(const Shot&, const RunSettings& r) {
  return r.detail == Detail::custom ? "{detail} of {cell_size} ." : "Detail: {detail} .";
}
std::string sentence_of(const Shot&, const Look& l) {
  return std::string("Backdrop: {backdrop}") +
         (l.floor ? " . The floor is {floor_surface} ." : " , without a floor.");
}
std::string sentence_of(const Shot&, const Light& l) {
  if (l.kind == LightKind::room) return "{kind} , {room} , {strength} .";
  if (l.kind == LightKind::spot) return "{kind} , {strength} , aims at {aim} .";
  return "{kind} , {strength} , at {azimuth} , {elevation} above the ground.";
}
std::string sentence_of(const Shot&, const SkinSettings&) { return {}; }
std::string sentence_of(const Shot&, const Camera&) { return "A {focal_length} lens, {distance} away."; }
std::string sentence_of(const Shot&, const Fluid& f) {
  return std::visit([](const auto& kind) { return kind.sentence(); }, f.what);
}
std::string sentence_of(const Shot&, const Material&) { return "It is {kind} ."; }
std::string sentence_of(const Shot&, const Gas&) { return {}; }

}  // namespace

std::vector<Group> describe(const Shot& shot) {
  std::vector<Group> out;
  std::shared_ptr<const Clock> one;
  const auto clock = [&] { return one ? one : one = std::make_shared<Clock>(shot); };
  each_item(shot, [&]<class T>(const ItemPlace& place, const T& item) {
    Group g{place.list, place.key, place.name, sentence_of(shot, item), {}};
    for (const Row<T>& row : settings_of(item)) g.settings.push_back(setting_of(shot, item, row, clock));
    out.push_back(std::move(g));
  });
  return out;
}

std::vector<std::string> setting_paths(const Shot& shot) {
  std::vector<std::string> out;
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings) out.push_back(g.path(s));
  return out;
}

Fault unknown_setting(const Shot& shot, const std::string& path) {
  std::vector<std::string> known = setting_paths(shot);
  each_item(shot, [&](const ItemPlace& place, const auto&) {
    if (!place.list.empty()) known.push_back(place.path());
  });
  const std::string near = nearest(path, known);
  return shot_fault(path, "is not a setting of this shot.",
                    did_you_mean(near, "List them with “easy-pour-cli show FILE”."));
}

Setting find_setting(const Shot& shot, const std::string& path) {
  Setting out;
  with_setting(shot, path, [&](const auto& item, const auto& row) {
    out = setting_of(shot, item, row, [&] { return std::make_shared<Clock>(shot); });
  });
  return out;
}

std::string path_now(const Shot& shot, const std::string& path) {
  if (std::string now = force_path_now(path); !now.empty()) return now;
  std::string out = path;
  each_item(shot, [&](const ItemPlace& place, const auto& item) {
    const std::string start = place.path() + ".";
    if (!path.starts_with(start)) return;
    for (const auto& row : settings_of(item))
      if (row.is_called(std::string_view(path).substr(start.size()))) out = start + row.key;
  });
  return out;
}

Setting timed(const Shot& shot, const std::string& path) {
  Setting out = find_setting(shot, path);
  if (!out.clock) out.clock = std::make_shared<Clock>(shot);
  return out;
}

void set_value(Shot& shot, const std::string& path, const Value& value) {
  with_setting(shot, path, [&](auto& item, const auto& row) { row.set(item, accepted(row, value, path)); });
  settle_range(shot, path);
}

void set_text(Shot& shot, const std::string& path, const std::string& text, const std::string& where) {
  with_setting(shot, path, [&](auto& item, const auto& row) {
    About about = row;
    if (is_timed(row.get(item))) about.clock = std::make_shared<Clock>(shot);
    row.set(item, from_text(about, row.get(item), text, where));
  });
  settle_range(shot, path);
}

namespace {

std::string lines_of(const std::string& path, const std::vector<Setting>& settings) {
  std::string out = "\n| path | default | range | what it does |\n| --- | --- | --- | --- |\n";
  for (const Setting& s : settings) {
    std::string range;
    for (const Option& o : s.options) range += (range.empty() ? "" : ", ") + std::string(o.key);
    if (std::holds_alternative<double>(s.value) || std::holds_alternative<int>(s.value) ||
        std::holds_alternative<Vec3d>(s.value))
      range = format_quantity(s.low, s.unit) + " to " + format_quantity(s.high, s.unit);
    out += "| `" + path + "." + s.key + "` | " + s.text() + " | " + range + " | " + s.help +
           (s.traced ? " *Traced pictures only.*" : "") + " |\n";
  }
  return out;
}

/// What all kinds of an item have, and what each has besides.
template <class T>
std::string chapter_of(const Group& g, const Table<T>& common, std::span<const Option> kinds,
                       void (*become)(Shot&, int kind)) {
  const auto is_own = [&](const Setting& s) {
    return std::none_of(common.begin(), common.end(),
                        [&](const Row<T>& r) { return s.key == std::string(r.key); });
  };
  std::vector<Setting> all;
  std::copy_if(g.settings.begin(), g.settings.end(), std::back_inserter(all), std::not_fn(is_own));
  std::string out = "\n## " + g.name + "\n" + lines_of(g.path(), all);
  for (size_t kind = 0; kind < kinds.size(); ++kind) {
    Shot shot;
    become(shot, int(kind));
    std::vector<Setting> own;
    for (const Group& h : describe(shot))
      if (h.list == g.list)
        std::copy_if(h.settings.begin(), h.settings.end(), std::back_inserter(own), is_own);
    out += "\n### " + std::string(kinds[kind].label) + "\n" + lines_of(g.path(), own);
  }
  return out;
}

}  // namespace

std::string settings_reference() {
  Shot shot;
  shot.pieces.push_back({.id = "ID", .name = "A piece"});
  shot.fluids.push_back({.id = "ID", .name = "A fluid"});
  shot.pours.push_back({.id = "ID", .name = "A pour"});
  shot.materials.push_back({.id = "ID", .name = "A material"});
  shot.forces = {new_force(0)};
  shot.forces[0].id = "ID", shot.forces[0].name = "A force";
  shot.look.lights = {{.id = "ID", .name = "A light"}};
  std::string out =
      "# Settings\n\nEvery setting of a shot, by the names that the command line and the file use.\n"
      "`easy-pour-cli set FILE.pour PATH=VALUE` changes one. This page is written by `easy-pour-cli "
      "settings`.\n";
  for (const Group& g : describe(shot)) {
    if (g.list == "pieces")
      out += chapter_of(g, table<Piece>(), kinds(),
                        [](Shot& s, int kind) { s.pieces = {{.id = "ID", .shape = new_shape(kind)}}; });
    else if (g.list == "fluids")
      out += chapter_of(g, table<Fluid>(), fluid_kinds(),
                        [](Shot& s, int kind) { s.fluids = {new_fluid(kind)}, s.fluids[0].id = "ID"; });
    else if (g.list == "forces")
      out += chapter_of(g, table<Force>(), force_kinds(),
                        [](Shot& s, int kind) { s.forces = {new_force(kind)}, s.forces[0].id = "ID"; });
    else
      out += "\n## " + g.name + "\n" + lines_of(g.path(), g.settings);
  }
  return out;
}

std::string new_id(const Shot& shot, const std::string& name) {
  std::string base;
  for (const char c : name) {
    if (std::isalnum(static_cast<unsigned char>(c)) && static_cast<unsigned char>(c) < 128)
      base += char(std::tolower(static_cast<unsigned char>(c)));
    else if (!base.empty() && base.back() != '_')
      base += '_';
  }
  while (!base.empty() && base.back() == '_') base.pop_back();
  if (base.empty()) base = "item";
  const auto taken = [&](const std::string& id) {
    bool any = false;
    each_list(shot, [&](const char*, const auto& list) {
      for (const auto& item : list) any = any || item.id == id;
    });
    return any;
  };
  std::string id = base;
  for (int i = 2; taken(id); ++i) id = base + "_" + std::to_string(i);
  return id;
}

}  // namespace pour
