#include "view/handle.h"

#include <algorithm>
#include <QMenu>

#include "base/error.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/items.h"

using namespace pour;

namespace {

constexpr double arrow = 0.06;                               // m long
constexpr double square_of_point = 8, square_of_force = 10;  // pixels

const QColor point_color(143, 214, 184), force_color(0xF2, 0xB1, 0x34), arc_color(0x5A, 0xC8, 0xE8);

std::string points_path(const Piece& piece) {
  return "pieces." + piece.id + (std::holds_alternative<Tube>(piece.shape) ? ".points" : ".profile");
}

/// The menu of a point: adds one behind it, takes it out, or makes a tube thicker or thinner there.
void fill_menu_of_point(QMenu& menu, Document& document, const std::string& path, const Points& list,
                        size_t i, bool has_sizes) {
  const auto change = [&](const QString& text, const QString& edit, auto how) {
    return menu.addAction(text, [&document, edit, how, path, list] {
      Points changed = list;
      how(changed);
      document.edit(edit, [&](Shot& s) { set_value(s, path, changed); });
    });
  };
  change(QObject::tr("Add a point behind it"), QObject::tr("Add a point"), [i](Points& p) {
    const Vec3d next =
        i + 1 < p.list.size() ? (p.list[i] + p.list[i + 1]) * 0.5 : p.list[i] * 1.5 - p.list[i - 1] * 0.5;
    p.list.insert(p.list.begin() + std::ptrdiff_t(i) + 1, next);
    if (!p.sizes.empty()) p.sizes.insert(p.sizes.begin() + std::ptrdiff_t(i) + 1, p.sizes[i]);
  });
  change(QObject::tr("Remove this point"), QObject::tr("Remove a point"), [i](Points& p) {
    p.list.erase(p.list.begin() + std::ptrdiff_t(i));
    if (!p.sizes.empty()) p.sizes.erase(p.sizes.begin() + std::ptrdiff_t(i));
  })->setEnabled(list.list.size() > 2);
  if (!has_sizes) return;
  menu.addSeparator();
  for (const auto& [text, factor] :
       {std::pair{QObject::tr("Thicker here"), 1.25}, {QObject::tr("Thinner here"), 0.8}})
    change(text, QObject::tr("Change its thickness"), [i, factor = factor](Points& p) {
      p.sizes.resize(p.list.size(), 1);
      p.sizes[i] = std::clamp(p.sizes[i] * factor, 0.01, 100.0);
    });
}

void add_points_of(Document& document, const Piece& piece, std::vector<Handle>& out) {
  const Points* points = points_of(piece);
  if (!points) return;
  const Pose pose = pose_of(document.shot_now(), piece);
  const bool is_profile = std::holds_alternative<Turned>(piece.shape);
  for (size_t i = 0; i < points->list.size(); ++i) {
    const std::string path = points_path(piece);
    Handle h{.id = path + " " + std::to_string(i),
             .at = pose * points->list[i],
             .edit = QObject::tr("Move a point")};
    h.reach = square_of_point, h.size = square_of_point, h.color = point_color;
    h.set = [=, list = *points](Shot& s, const Handle::Drag& drag) {
      Points changed = list;
      Vec3d& point = changed.list[i];
      point = pose.inverse() * drag.to;
      if (is_profile) point.x = std::max(0.0, point.x), point.z = 0;  // it stays in the plane of the profile
      set_value(s, path, changed);
    };
    h.fill = [=, &document, list = *points](QMenu& menu) {
      fill_menu_of_point(menu, document, path, list, i, !is_profile);
    };
    out.push_back(std::move(h));
  }
}

/// The points that curves and profiles run through.
void add_points(Document& document, std::vector<Handle>& out) {
  if (document.stage() != Stage::set) return;
  for (const Piece& piece : document.shot_now().pieces) try {
      add_points_of(document, piece, out);
    } catch (const Fault&) {  // it is nowhere
    }
}

/// The key of the place of a force: the point or axis that it goes by.
std::string key_of_place(const Force& f) {
  for (const auto& row : settings_of(f))
    if (std::holds_alternative<Vec3d>(row.get(f)) && row.unit == Unit::length && row.has_effect(Shot(), f) &&
        std::string(row.key).ends_with("position") && std::string(row.key) != "reach_position")
      return row.key;
  return {};
}

/// The places that forces go by, the points of their curves, and the middles of what they reach.
void add_forces(Document& document, std::vector<Handle>& out) {
  if (document.step() != 3 || document.stage() == Stage::picture) return;
  const auto add = [&](const std::string& path, const Vec3d& at, std::optional<size_t> point = {}) {
    Handle h{.id = path, .at = at, .edit = QObject::tr("Move a force")};
    if (point) h.id += " " + std::to_string(*point);
    h.size = square_of_force, h.color = force_color;
    if (point)
      h.fill = [=, &document](QMenu& menu) {
        const Points list = std::get<Points>(find_setting(document.shot(), path).value);
        fill_menu_of_point(menu, document, path, list, *point, false);
      };
    h.set = [path, point, frame = document.frame()](Shot& s, const Handle::Drag& drag) {
      const Setting setting = find_setting(s, path);
      Value value = drag.to;
      if (point) {
        Points points = std::get<Points>(setting.value);
        points.list[*point] = drag.to;
        value = points;
      }
      change_value(s, path, kept_within(setting, value), frame);
    };
    out.push_back(std::move(h));
  };
  for (const Force& f : document.shot_now().forces) {
    const std::string path = "forces." + f.id;
    Force own = f;
    if (const Vec3d* place = place_of(own)) add(path + "." + key_of_place(f), *place);
    if (const auto* current = f.as<Current>())
      for (size_t i = 0; i < current->points.list.size(); ++i)
        add(path + ".points", current->points.list[i], i);
    if (f.reach != Reach::Shape::everywhere && f.reach != Reach::Shape::piece)
      add(path + ".reach_position", f.reach_position);
  }
}

/// The tips of arrows along which liquid is poured. Control lets it land on what is under the pointer.
void add_aims(Document& document, std::vector<Handle>& out) {
  if (document.stage() != Stage::set) return;
  const Shot& shot = document.shot();
  for (const Pour& p : shot.pours) {
    if (!shot.brings(p, FlowKind::liquid)) continue;
    Arc arc = arc_of(shot, p, document.frame(), arc_steps);
    if (arc.at.size() < 2) continue;
    const Vec3d from = arc.at[0];
    Handle h{.id = "pours." + p.id + ".aim",
             .at = from + normalized(arc.velocity) * arrow,
             .edit = QObject::tr("Aim")};
    h.color = arc_color, h.arc = std::move(arc);
    h.set = [path = h.id, pour = p.id, from, frame = document.frame()](Shot& s, const Handle::Drag& drag) {
      if (drag.onto) return void(aim_pour(s, pour, *drag.onto, frame));
      s.pour(pour)->direction = Direction::own;
      change_value(s, path, normalized(drag.to - from), frame);
    };
    out.push_back(std::move(h));
  }
}

}  // namespace

std::vector<Handle> handles_of(Document& document) {
  std::vector<Handle> out;
  for (const auto add : {add_aims, add_forces, add_points}) add(document, out);
  return out;
}

const Points* points_of(const Piece& piece) {
  if (const auto* tube = std::get_if<Tube>(&piece.shape)) return &tube->points;
  if (const auto* turned = std::get_if<Turned>(&piece.shape)) return &turned->profile;
  return nullptr;
}
