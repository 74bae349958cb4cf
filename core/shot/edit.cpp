#include "shot/edit.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <optional>
#include <set>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "shape/near_surface.h"
#include "shape/placed.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/describe.h"
#include "shot/items.h"

namespace pour {
namespace {

std::string number_after(const std::string& word, size_t there) {
  return there ? word + " " + std::to_string(there + 1) : word;
}

Fault nothing_there(const Shot& shot, const std::string& path) {
  std::vector<std::string> known;
  each_item(shot, [&](const ItemPlace& place, const auto&) {
    if (!place.list.empty()) known.push_back(place.path()), known.push_back(place.key);
  });
  const std::string near = nearest(path, known);
  return shot_fault(
      "“" + path + "”", "is not in this shot.",
      did_you_mean(near, "Name a piece, fluid, pour, force, material or light; “show” lists them."));
}

bool same_but_for_case(std::string_view a, std::string_view b) {
  return a.size() == b.size() &&
         std::equal(a.begin(), a.end(), b.begin(),
                    [](unsigned char x, unsigned char y) { return std::tolower(x) == std::tolower(y); });
}

/// “Bowl 2” after “Bowl”, “Bowl 3” after that.
std::string next_name(const Shot& shot, const std::string& name) {
  std::set<std::string> taken;
  each_item(shot, [&](const ItemPlace& place, const auto&) { taken.insert(place.name); });
  const size_t end = name.find_last_not_of("0123456789");
  const bool numbered = end != std::string::npos && end + 1 < name.size() && name[end] == ' ';
  const std::string base = numbered ? name.substr(0, end) : name;
  for (int n = 2;; ++n)
    if (const std::string next = base + " " + std::to_string(n); !taken.contains(next)) return next;
}

}  // namespace

std::string add_new_piece(Shot& shot, int kind, const std::string& name) {
  Piece p;
  p.shape = new_shape(kind);
  p.name = name.empty() ? kinds()[size_t(kind)].label : name;
  p.id = new_id(shot, p.name);
  p.holds = false, p.blocks = p.shows = true;
  if (auto* word = std::get_if<Lettering>(&p.shape))
    word->text = "POUR";
  else
    p.position.y = 0.06;
  p.position.x = 0.02 * double(shot.pieces.size());  // beside what is there already
  shot.pieces.push_back(p);
  return "pieces." + p.id;
}

namespace {

double usual_patchiness(const Fluid& f) {
  return std::visit([](const auto& kind) { return kind.usual_patchiness; }, f.what);
}

}  // namespace

std::string add_new_fluid(Shot& shot, int kind, const std::string& name) {
  Fluid f = new_fluid(kind);
  f.name = name.empty() ? number_after(f.name, shot.fluids.size()) : name;
  f.id = new_id(shot, f.name);
  shot.fluids.push_back(f);
  add_new_pour(shot, f.name);
  if (!shot.pour(f.id)) shot.pours.back().id = f.id;  // one word for both, as in the recipes
  shot.pours.back().fluid.id = f.id, shot.pours.back().patchiness = usual_patchiness(f);
  return "fluids." + f.id;
}

std::string add_new_pour(Shot& shot, const std::string& name) {
  if (shot.fluids.empty()) throw shot_fault("Fluid", "there is none that could be poured.", "Add one first.");
  Pour p;
  p.fluid.id = shot.fluids.front().id;
  p.patchiness = std::max(p.patchiness, usual_patchiness(shot.fluids.front()));
  p.name = name.empty() ? number_after("Pour", shot.pours.size()) : name;
  p.id = new_id(shot, p.name);
  Span& pours = p.windows.list.back();
  pours.to = std::min(pours.to, Clock(shot).time(shot.film.frames + 1));
  for (const Piece& q : shot.pieces)
    if (!q.holds && !q.blocks && !q.shows) p.from = SourceKind::piece, p.source.id = q.id;
  shot.pours.push_back(p);
  return "pours." + p.id;
}

std::string turn_into(Shot& shot, const std::string& piece, const std::string& fluid, double film_frame) {
  Piece* what = shot.piece(piece);
  const Fluid* into = shot.fluid(fluid);
  if (!what) throw nothing_there(shot, "pieces." + piece);
  if (!into) throw nothing_there(shot, "fluids." + fluid);
  what->holds = what->drains = false, what->blocks = what->shows = true;
  for (const char* role : {"holds", "blocks", "shows", "drains"}) what->tracks.erase(role);
  const auto turns = [&](const Pour& p) {
    return p.from == SourceKind::piece && p.source.id == piece && p.replaces_source;
  };
  auto pour = std::find_if(shot.pours.begin(), shot.pours.end(), turns);
  if (pour == shot.pours.end()) {
    Pour p;
    p.name = filled("{piece} into {fluid}", {{"piece", what->name}, {"fluid", into->name}});
    p.id = new_id(shot, p.name);
    p.from = SourceKind::piece, p.source.id = piece, p.replaces_source = true;
    p.windows = {}, p.rate = 0, p.speed = 0, p.heat = 0, p.colors = PourColors::piece;
    pour = shot.pours.insert(shot.pours.end(), p);
  }
  pour->fluid.id = fluid, pour->fill_at.time = Clock(shot).time(film_frame);
  return "pours." + pour->id;
}

std::string add_new_light(Shot& shot, LightKind kind, const std::string& name) {
  Light l;
  l.kind = kind;
  l.name = name.empty() ? light_kinds()[size_t(kind)].label : name;
  l.id = new_id(shot, l.name);
  if (kind == LightKind::room) l.strength = 0.08;
  if (kind == LightKind::sun) l.temperature = 5600;
  l.azimuth = (40 + 50 * double(shot.look.lights.size())) * degree;  // not where there is one already
  shot.look.lights.push_back(l);
  return "lights." + l.id;
}

std::string add_new_force(Shot& shot, int kind, const std::string& name) {
  Force f = new_force(kind);
  const auto taken = [&](const Force& other) { return other.name == f.name; };
  if (!name.empty())
    f.name = name;
  else if (std::any_of(shot.forces.begin(), shot.forces.end(), taken))
    f.name = next_name(shot, f.name);
  f.id = new_id(shot, f.name);
  // Into a guide, if there is one: nothing flows into a solid.
  if (auto* gather = std::get_if<Gather>(&f.what); gather && !shot.pieces.empty()) {
    const auto guide = std::find_if(shot.pieces.begin(), shot.pieces.end(),
                                    [](const Piece& p) { return !p.blocks && !p.holds; });
    gather->piece.id = guide == shot.pieces.end() ? shot.pieces.front().id : guide->id;
  }
  shot.forces.push_back(f);
  return "forces." + f.id;
}

std::string add_new_material(Shot& shot, NamedMaterial kind, const std::string& name) {
  Material m = new_material(kind);
  m.name = name;
  if (name.empty()) {
    m.name = named_materials()[size_t(kind)].option.label;
    m.name.front() = char(std::toupper(static_cast<unsigned char>(m.name.front())));
    const auto taken = [&](const Material& other) { return other.name == m.name; };
    if (std::any_of(shot.materials.begin(), shot.materials.end(), taken)) m.name = next_name(shot, m.name);
  }
  m.id = new_id(shot, m.name);
  shot.materials.push_back(m);
  return "materials." + m.id;
}

void make_of(Shot& shot, const std::string& path, const std::string& material) {
  MaterialId* made_of = nullptr;
  each_made(shot, [&](const std::string& other, const std::string&, MaterialId& material) {
    if (other == path) made_of = &material;
  });
  if (!made_of) throw nothing_there(shot, path);
  if (material.empty() || shot.material(material)) {
    made_of->id = material;
    return;
  }
  constexpr std::string_view another = "new ";
  const std::string kind = material.starts_with(another) ? material.substr(another.size()) : material;
  std::vector<std::string> known;
  for (const Material& m : shot.materials) known.push_back(m.id);
  for (size_t k = 0; k < named_materials().size(); ++k) {
    known.emplace_back(material_options()[k].key);
    if (kind != known.back()) continue;
    add_new_material(shot, NamedMaterial(k), {});
    made_of->id = shot.materials.back().id;
    return;
  }
  const std::string near = nearest(material, known);
  throw shot_fault(path + ".material",
                   filled("is “{material}”, which is no material of this shot.", {{"material", material}}),
                   did_you_mean(near, "Name one of its materials, or a kind, for example porcelain."));
}

std::string named_item(const Shot& shot, const std::string& list, const std::string& word) {
  std::vector<ItemPlace> places;
  each_item(shot, [&](const ItemPlace& place, const auto&) {
    if (!place.list.empty() && (list.empty() || place.list == list)) places.push_back(place);
  });
  // Exact matches come before matches that ignore case.
  using Test = bool (*)(const ItemPlace&, const std::string&);
  for (const Test test :
       {Test([](const ItemPlace&p, const std::string&w) { return p.path() == w || p.key == w; }),
        Test([](const ItemPlace&p, const std::string&w) {
          return same_but_for_case(p.path(), w) || same_but_for_case(p.key, w) ||
                 same_but_for_case(p.name, w);
        })}) {
    std::vector<std::string> found;
    for (const ItemPlace& p : places)
      if (test(p, word)) found.push_back(p.path());
    if (found.size() == 1) return found.front();
    if (found.size() > 1) {
      std::string all;
      for (const std::string& path : found) all += (all.empty() ? "" : ", ") + path;
      throw shot_fault("“" + word + "”", "is the name of several things.",
                       filled("Use one of the paths: {all}.", {{"all", all}}));
    }
  }
  throw nothing_there(shot, word);
}

void remove_item(Shot& shot, const std::string& path) {
  const Shot before = shot_at(shot, Clock(shot), 0);
  bool found = false;
  each_list(shot, [&](const std::string& list, auto& items) {
    found = std::erase_if(items, [&](const auto& item) { return path == list + "." + item.id; }) || found;
  });
  if (!found) throw nothing_there(shot, path);
  for (Piece& p : shot.pieces) {
    const bool lost_path = !p.path.id.empty() && !shot.piece(p.path.id),
               lost_parent = !p.parent.id.empty() && !shot.piece(p.parent.id);
    if (!lost_path && !lost_parent) continue;
    // It stays in place.
    const Pose pose = pose_of(before, *before.piece(p.id));
    const bool free = lost_path || p.path.id.empty();
    if (lost_path) p.path.id.clear(), p.tracks.erase("progress");
    if (lost_path || lost_parent) p.parent.id.clear();
    if (!free) continue;
    for (const auto& [key, value] : {std::pair<std::string, Value>{".position", pose.position},
                                     {".turn", angles_of(pose.turn)},
                                     {".scale", pose.scale}}) {
      const std::string place = "pieces." + p.id + key;
      set_value(shot, place, kept_within(find_setting(shot, place), value));
    }
  }
  each_made(shot, [&](const std::string&, const std::string&, MaterialId& material) {
    if (path == "materials." + material.id) material.id.clear();
  });
  std::erase_if(shot.pours, [&](const Pour& p) { return path == "fluids." + p.fluid.id; });
}

namespace {

/// Calls f(list, index) for the item at a path.
template <class F>
void with_item(Shot& shot, const std::string& path, const F& f) {
  bool found = false;
  each_list(shot, [&](const std::string& list, auto& items) {
    for (size_t i = 0; i < items.size() && !found; ++i)
      if (path == list + "." + items[i].id) found = true, f(items, i);
  });
  if (!found) throw nothing_there(shot, path);
}

}  // namespace

std::string duplicate_item(Shot& shot, const std::string& path) {
  std::string id;
  with_item(shot, path, [&](auto& items, size_t i) {
    auto copy = items[i];
    copy.name = next_name(shot, copy.name), copy.id = id = new_id(shot, copy.name);
    items.insert(items.begin() + std::ptrdiff_t(i) + 1, copy);
  });
  const std::string list = path.substr(0, path.find('.')), old = path.substr(list.size() + 1);
  if (list == "fluids")
    for (size_t i = 0, n = shot.pours.size(); i < n; ++i) {
      if (shot.pours[i].fluid.id != old) continue;
      Pour copy = shot.pours[i];
      copy.fluid.id = id, copy.name = next_name(shot, copy.name), copy.id = new_id(shot, copy.name);
      shot.pours.push_back(copy);
    }
  return list + "." + id;
}

void shift_item(Shot& shot, const std::string& path, int by) {
  with_item(shot, path, [&](auto& items, size_t i) {
    const size_t to =
        size_t(std::clamp(std::ptrdiff_t(i) + by, std::ptrdiff_t(0), std::ptrdiff_t(items.size()) - 1));
    if (to < i)
      std::rotate(items.begin() + std::ptrdiff_t(to), items.begin() + std::ptrdiff_t(i),
                  items.begin() + std::ptrdiff_t(i) + 1);
    if (to > i)
      std::rotate(items.begin() + std::ptrdiff_t(i), items.begin() + std::ptrdiff_t(i) + 1,
                  items.begin() + std::ptrdiff_t(to) + 1);
  });
}

void rename_item(Shot& shot, const std::string& path, const std::string& name) {
  bool found = false;
  each_item(shot, [&](const ItemPlace& place, const auto&) {
    found = found || (!place.list.empty() && path == place.path());
  });
  if (!found) throw nothing_there(shot, path);
  set_text(shot, path + ".name", name, path + ".name");
}

void place_piece(Shot& shot, const std::string& id, const Pose& wanted, double film_frame) {
  const Shot now = shot_at(shot, film_frame);
  const Piece* piece = now.piece(id);
  if (!piece) throw nothing_there(shot, "pieces." + id);
  Piece free = *piece;  // what it stands in, without its own place
  free.position = free.turn = {}, free.scale = 1;
  const Pose own = pose_of(now, free).inverse() * wanted;
  const auto change = [&](const char* key, const auto& value, const auto& was) {
    const std::string path = "pieces." + id + key;
    if (!(value == was))
      change_value(shot, path, kept_within(find_setting(shot, path), Value(value)), film_frame);
  };
  change(".position", own.position, piece->position);
  const Vec3d turn = angles_of(own.turn, piece->turn);
  if (length(turn - piece->turn) > 1e-12)  // spin comes on top of it
    change(".turn", turn - shot.piece(id)->spin * Clock(shot).time(film_frame), piece->turn);
  change(".scale", own.scale, piece->scale);
}

void settle_piece(Shot& shot, const std::string& id, Settle how) {
  const Shot first = shot_at(shot, 1);
  const Piece* piece = first.piece(id);
  if (!piece) throw nothing_there(shot, "pieces." + id);
  Pose pose = pose_of(first, *piece);
  if (how == Settle::upright) {
    const Vec3d middle = piece_mesh(first, *piece).bounds().center();
    const Rotation turn = Rotation::euler({-std::numbers::pi / 2, 0, 0});
    pose.turn = turn * pose.turn, pose.position = middle + turn * (pose.position - middle);
    return place_piece(shot, id, pose, 1);
  }
  const Box box = piece_mesh(first, *piece).bounds();
  if (how == Settle::floor) pose.position.y -= box.low.y;
  if (how == Settle::centre) pose.position += Vec3d{-box.center().x, 0, -box.center().z};
  place_piece(shot, id, pose, 1);
}

std::vector<std::string> take_apart(Shot& shot, const std::string& id) {
  const Piece* piece = shot.piece(id);
  if (!piece) throw nothing_there(shot, "pieces." + id);
  const auto* model = std::get_if<Model>(&piece->shape);
  if (!model)
    throw shot_fault(filled("Piece “{name}”", {{"name", piece->name}}), "is no model.",
                     "Take a model apart.");
  const std::vector<std::string> parts = parts_within(model->parts());
  if (parts.size() < 2)
    throw shot_fault(filled("Piece “{name}”", {{"name", piece->name}}), "is all of a piece.",
                     "There is nothing to take apart.");
  std::vector<std::string> out;
  const Piece whole = *piece;
  auto at = shot.pieces.begin() + (piece - shot.pieces.data());
  at = shot.pieces.erase(at);
  for (const std::string& part : parts) {
    Piece one = whole;
    std::get<Model>(one.shape).part = part;
    one.name = part, one.id = out.empty() ? id : new_id(shot, part);  // what pours out of it still does
    at = shot.pieces.insert(at, one) + 1;
    out.push_back("pieces." + one.id);
  }
  return out;
}

std::string add_part(Shot& shot, const std::string& id, const std::string& part) {
  const Piece* piece = shot.piece(id);
  const auto* model = piece ? std::get_if<Model>(&piece->shape) : nullptr;
  if (!piece) throw nothing_there(shot, "pieces." + id);
  if (!model)
    throw shot_fault(filled("Piece “{name}”", {{"name", piece->name}}), "is no model.",
                     "Choose a part of a model.");
  Piece one = *piece;
  auto& shape = std::get<Model>(one.shape);
  shape.part = part, shape.wrap = 0;
  // Where it is open it stands out of the wall of the whole, or all that it pours would be in that.
  shape.wall = std::min(1.0, std::max(3 * shape.wall, shape.wall + 0.004));
  (void)shape.parts();  // whether it has it
  one.name = part, one.id = new_id(shot, part);
  one.holds = one.blocks = one.shows = one.drains = false;
  one.position = one.turn = one.spin = {}, one.scale = 1, one.tracks.clear(), one.path.id.clear();
  one.parent.id = id;
  shot.pieces.insert(shot.pieces.begin() + (piece - shot.pieces.data()) + 1, one);
  return "pieces." + one.id;
}

void add_window(Shot& shot, const std::string& id, const FrameRange& wanted) {
  auto& list = shot.pour(id)->windows.list;
  const Clock clock(shot);
  Span span{clock.time(std::max(1, wanted.first)), clock.time(std::min(wanted.last, shot.film.frames) + 1)};
  const auto next =
      std::find_if(list.begin(), list.end(), [&](const Span& s) { return s.to > span.from + same_time; });
  if (next != list.end()) span.to = std::min(span.to, next->from);
  if (span.to <= span.from + same_time)
    throw shot_fault(
        "Pour window",
        filled("there is no room for one at frame {first}.", {{"first", std::to_string(wanted.first)}}),
        "Choose a frame between the windows that there are.");
  list.insert(next, span);
}

void split_window(Shot& shot, const std::string& id, size_t window, double film_frame) {
  auto& list = shot.pour(id)->windows.list;
  const double at = Clock(shot).time(film_frame);
  if (window >= list.size() || at <= list[window].from + same_time || at >= list[window].to - same_time)
    return;
  const Span rest{at, list[window].to};
  list[window].to = at;
  list.insert(list.begin() + std::ptrdiff_t(window) + 1, rest);
}

void start_animating(Shot& shot, const std::string& path, double film_frame) {
  const Setting about = find_setting(shot, path);
  if (about.track) return;
  Track track;
  track.set_key(Clock(shot).key_time(about, film_frame), about.value);
  set_track(shot, path, track);
}

void stop_animating(Shot& shot, const std::string& path, double film_frame) {
  const Value value = value_at(shot, path, film_frame);
  set_track(shot, path, {});
  set_value(shot, path, value);
}

void set_parent(Shot& shot, const std::string& id, const std::string& parent) {
  Piece* piece = shot.piece(id);
  if (!piece) throw nothing_there(shot, "pieces." + id);
  const std::string old_parent = piece->parent.id;
  if (parent == old_parent) return;
  if (!parent.empty() && !shot.piece(parent))
    throw shot_fault("pieces." + id + ".attached_to",
                     filled("“{parent}” is no piece of this shot.", {{"parent", parent}}),
                     "Name one of its pieces by its id.");
  Shot after = shot;
  after.piece(id)->parent.id = parent;
  refuse_circles(after);
  const bool stands_free = piece->path.id.empty();  // a path brings a place of its own
  const bool was_lost = !piece->parent.id.empty() && !shot.piece(piece->parent.id);
  if (!stands_free || was_lost) {
    shot = std::move(after);
    return;
  }
  const Shot before = shot_at(after, Clock(after), 0);
  Piece as_it_was = *before.piece(id);
  as_it_was.parent.id = old_parent;
  const Pose world = pose_of(before, as_it_was);
  const Piece* keeper = parent.empty() ? nullptr : before.piece(parent);
  const Pose own = keeper ? pose_of(before, *keeper).inverse() * world : world;
  const std::string path = "pieces." + id;
  set_value(after, path + ".position", own.position), set_value(after, path + ".turn", angles_of(own.turn));
  set_value(after, path + ".scale", own.scale);
  shot = std::move(after);
}

}  // namespace pour
