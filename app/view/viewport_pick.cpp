// Selection on the stage, and its tools.
#include <algorithm>
#include <cmath>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>

#include "base/error.h"
#include "recipe/item_menu.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "shot/edit.h"
#include "view/analyst.h"
#include "view/viewport.h"

using namespace pour;

namespace {

// Snapping while Control is held.
constexpr double grid = 0.01, turn_grid = 15 * degree, size_grid = 0.05;  // m; rad
constexpr double click = 4;                                               // pixels that a hand shakes

double snapped(double v, double grid) { return std::round(v / grid) * grid; }

/// Turned by an angle about an axis (Rodrigues).
Rotation turned(const Vec3d& axis, double angle) {
  Rotation r;
  for (int k = 0; k < 3; ++k) {
    Vec3d e;
    e[k] = 1;
    const Vec3d v = e * std::cos(angle) + cross(axis, e) * std::sin(angle) +
                    axis * (dot(axis, e) * (1 - std::cos(angle)));
    for (int a = 0; a < 3; ++a) r.row[a][k] = v[a];
  }
  return r;
}

}  // namespace

std::optional<Seen> Viewport::what_is_at(const QPointF& at, const std::string& left_out) const {
  const auto seen = pieces();
  if (!seen) return std::nullopt;
  const View view(camera_for(size()), double(width()) / std::max(1, height()));
  return seen_at(*seen, view, float(2 * at.x() / std::max(1, width()) - 1),
                 float(1 - 2 * at.y() / std::max(1, height())), left_out);
}

/// Handles of the last selected piece, if it can be moved.
std::optional<Gizmo> Viewport::gizmo() const {
  if (document_.stage() != Stage::set || document_.selected().empty()) return std::nullopt;
  const Shot& now = document_.shot_now();
  const Piece* piece = now.piece(document_.selected().back());
  if (!piece || piece->locked) return std::nullopt;
  try {
    return Gizmo(View(camera_for(size()), double(width()) / std::max(1, height())), size(),
                 dot_place(*piece, pose_of(now, *piece)));
  } catch (const Fault&) {  // it is nowhere
    return std::nullopt;
  }
}

/// The lowest point of a piece that stands so, m; of one that is not seen where it stands.
double Viewport::lowest_of(const std::string& id, const Pose& pose) const {
  double lowest = 1e300;
  if (analyst_.now().solid_pieces)
    for (const PicturePiece& p : *analyst_.now().solid_pieces)
      if (p.id == id)
        for (const Vec3f& q : p.surface->mesh.points) lowest = std::min(lowest, (pose * to<double>(q)).y);
  return lowest < 1e300 ? lowest : pose.position.y;
}

/// Takes hold of a part of the gizmo, or of the dot of a piece, which selects it; false where none is there.
bool Viewport::hold_pieces(const QPointF& at, bool besides) {
  held_.reset();
  auto part = Gizmo::Part::none;
  if (const auto g = gizmo()) part = g->part_at(at);
  if (part == Gizmo::Part::none) {
    const std::string dot = dot_at(at);
    if (dot.empty()) return false;
    if (!document_.is_selected(dot) || besides) document_.select(dot, besides);
    part = Gizmo::Part::middle;
  }
  const auto g = gizmo();
  if (!g) return false;
  HeldPieces held{*g, part, at, {}};
  const Shot& now = document_.shot_now();
  for (const std::string& id : document_.selected())
    if (const Piece* piece = now.piece(id); piece && !piece->locked) try {
        const Pose pose = pose_of(now, *piece);
        held.start.push_back({id, pose, dot_place(*piece, pose)});
      } catch (const Fault&) {  // it is nowhere
      }
  held_ = held;
  return true;
}

void Viewport::drag_pieces(const QPointF& to, Qt::KeyboardModifiers keys) {
  if (!held_ || held_->start.empty() || !document_.shot().piece(held_->start.back().id)) return;
  const bool snaps = keys & Qt::ControlModifier, rests = keys & Qt::ShiftModifier;
  Gizmo::Change change = held_->gizmo.drag(held_->part, held_->from, to);
  if (snaps) change.angle = snapped(change.angle, turn_grid);
  if (snaps && held_->part == Gizmo::Part::size)
    change.factor = std::max(size_grid, snapped(change.factor, size_grid));
  const HeldPieces::One& active = held_->start.back();
  if (held_->part == Gizmo::Part::middle || change.axis == Vec3d{})
    change.move = settled(active, change.move, to, snaps, rests && held_->part == Gizmo::Part::middle);
  document_.edit(
      tr("Move %1").arg(QString::fromStdString(document_.shot().piece(active.id)->name)),
      [&](Shot& s) {
        for (const HeldPieces::One& one : held_->start) {
          Pose pose = one.start;
          const Rotation turn = turned(change.axis == Vec3d{} ? Vec3d{0, 1, 0} : change.axis, change.angle);
          // About where it is held, each piece about its own handle.
          pose.turn = turn * pose.turn, pose.scale *= change.factor;
          pose.position = one.handle + turn * (one.start.position - one.handle) * change.factor + change.move;
          place_piece(s, one.id, pose, document_.frame());
        }
      },
      QString("drag %1").arg(drags_));
}

/// A movement that ends on the grid, the floor, or the surface under the pointer.
Vec3d Viewport::settled(const HeldPieces::One& piece, const Vec3d& move, const QPointF& pointer, bool snaps,
                        bool rests) const {
  const double below = piece.handle.y - lowest_of(piece.id, piece.start);  // of it under its handle
  Vec3d end = piece.handle + move;
  if (rests) {
    const View view(camera_for(size()), double(width()) / std::max(1, height()));
    const Vec3d eye = to<double>(view.eye),
                way = to<double>(view.ray(float(2 * pointer.x() / std::max(1, width()) - 1),
                                          float(1 - 2 * pointer.y() / std::max(1, height()))));
    const auto there = what_is_at(pointer, piece.id);
    if (!there && way.y > -1e-3) return move;  // above the horizon
    end = there ? there->at : eye - way * (eye.y / way.y);
    end.y += below;
  } else if (snaps) {
    for (int a = 0; a < 3; ++a)
      if (std::abs(move[a]) > 1e-9) end[a] = snapped(end[a], grid);
    if (std::abs(end.y - below) < grid) end.y = below;  // on the floor
  }
  return end - piece.handle;
}

/// A click on a piece selects it; beside all pieces nothing is selected any more.
void Viewport::pick(const QPointF& at, bool besides) {
  const auto seen = what_is_at(at);
  const Piece* piece = seen ? document_.shot().piece(seen->id) : nullptr;
  const bool may = piece && !piece->locked;
  if (may || !besides) document_.select(may ? piece->id : std::string(), besides);
}

bool Viewport::is_click(const QPointF& at) const {
  return std::hypot(at.x() - pressed_.x(), at.y() - pressed_.y()) < click;
}

/// The selected pieces come as large as they fit into the stage, or all of the set.
void Viewport::frame_selected() {
  Box box;
  const Shot& now = document_.shot_now();
  if (analyst_.now().solid_pieces)
    for (const PicturePiece& p : *analyst_.now().solid_pieces)
      if (const Piece* piece = now.piece(p.id); piece && document_.is_selected(p.id)) try {
          const Pose pose = pose_of(now, *piece);
          for (const Vec3f& q : p.surface->mesh.points) box.add(pose * to<double>(q));
        } catch (const Fault&) {  // it is nowhere
        }
  Camera c = document_.camera();
  if (box.empty()) {
    c.target = analyst_.now().framed.target, c.distance = analyst_.now().framed.distance;
  } else {
    const View view(camera_for(size()), double(width()) / std::max(1, height()));
    constexpr double air = 1.25;
    c.target = box.center();
    c.distance = air * length(box.size()) / 2 / double(std::min(view.half_width, view.half_height));
  }
  document_.look_from(c);
}

void Viewport::remove_selected() {
  const auto ids = document_.selected();
  if (ids.empty() || document_.stage() != Stage::set) return;  // elsewhere it is not seen what is selected
  document_.edit(tr("Remove"), [&](Shot& s) {
    for (const std::string& id : ids) remove_item(s, "pieces." + id);
  });
}

void Viewport::duplicate_selected() {
  const auto ids = document_.selected();
  if (ids.empty() || document_.stage() != Stage::set) return;
  std::vector<std::string> copies;
  document_.edit(tr("Duplicate"), [&](Shot& s) {
    for (const std::string& id : ids) {
      const std::string path = duplicate_item(s, "pieces." + id);
      copies.push_back(path.substr(path.find('.') + 1));
    }
  });
  for (size_t i = 0; i < copies.size(); ++i) document_.select(copies[i], i > 0);
}

/// Menu of a piece and of its parts at a point of the set.
void Viewport::open_menu(const std::string& id, const std::optional<Vec3d>& at, const QPoint& global) {
  const Piece* piece = document_.shot().piece(id);
  if (!piece) return;
  document_.select(id);
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->setObjectName("stage_menu");
  if (const auto* model = std::get_if<Model>(&piece->shape); model && at) try {
      const Vec3d own = pose_of(document_.shot_now(), *piece).inverse() * *at;
      for (const std::string& part : parts_at(model->parts(), to<float>(own))) {
        auto* action = menu->addAction((is_hollow(part) ? tr("The inside here, “%1”, as a piece of its own")
                                                        : tr("“%1” as a piece of its own"))
                                           .arg(QString::fromStdString(part).replace('&', "&&")),
                                       this, [this, id, part] {
                                         std::string path;
                                         document_.edit(tr("A part as a piece"),
                                                        [&](Shot& s) { path = add_part(s, id, part); });
                                         if (!path.empty()) document_.select(path.substr(path.find('.') + 1));
                                       });
        action->setObjectName("part_" + QString::fromStdString(part));
      }
      menu->addSeparator();
    } catch (const Fault&) {  // the checks say what is wrong with it
    }
  fill_item_menu(menu, document_, "pieces." + id);
  menu->addSeparator();
  const bool locked = piece->locked;
  menu->addAction(locked ? tr("Unlock") : tr("Lock"), this, [this, id, locked] {
    document_.set(QString::fromStdString("pieces." + id + ".locked"), locked ? "no" : "yes");
  });
  menu->addAction(tr("Remove"), this, &Viewport::remove_selected);
  menu->popup(global);
}

/// Short lines from the surfaces of what is selected, and of what something pours out of, to where what
/// leaves along the normals goes.
void Viewport::paint_normals(QPainter& p) {
  constexpr double long_ = 16;  // pixels
  const Shot& now = document_.shot_now();
  const View view(camera_for(size()), double(width()) / std::max(1, height()));
  QList<QLineF> front, behind;
  for (const Piece& piece : now.pieces) try {
      const auto known = analyst_.now().normals.find(piece.id);
      const auto pour = std::find_if(now.pours.begin(), now.pours.end(), [&](const Pour& q) {
        return q.from == SourceKind::piece && q.source.id == piece.id;
      });
      if (known == analyst_.now().normals.end() ||
          (pour == now.pours.end() && !document_.is_selected(piece.id)))
        continue;
      const double side = pour != now.pours.end() && pour->flipped ? -1 : 1;
      const Pose pose = pose_of(now, piece);
      for (const NormalAt& n : known->second) {
        const Vec3d at = pose * to<double>(n.at), out = pose.turn * to<double>(n.out) * side;
        const Vec3d from_eye = at - to<double>(view.eye);
        const double depth = dot(from_eye, to<double>(view.forward));
        const QLineF line(to_screen(at),
                          to_screen(at + out * (2 * double(view.half_width) * depth / width() * long_)));
        (dot(out, from_eye) < 0 ? front : behind).append(line);
      }
    } catch (const Fault&) {  // it is nowhere
    }
  p.setPen(QPen(QColor(0xF2, 0xC1, 0x4E, 60), 1));
  p.drawLines(behind);
  for (const auto& [color, wide] :
       {std::pair{QColor(60, 40, 0, 150), 3.0}, {QColor(0xF2, 0xC1, 0x4E), 1.3}}) {
    p.setPen(QPen(color, wide));
    p.drawLines(front);
  }
}

/// The box of the selection, and its handles.
void Viewport::paint_selected(QPainter& p) {
  const Shot& now = document_.shot_now();
  p.setPen(QPen(QColor(0x8F, 0xD6, 0xC8), 1.2));
  p.setBrush(Qt::NoBrush);
  if (analyst_.now().solid_pieces)
    for (const PicturePiece& q : *analyst_.now().solid_pieces)
      if (const Piece* piece = now.piece(q.id); piece && document_.is_selected(q.id)) try {
          paint_box(p, q.surface->mesh.bounds(), pose_of(now, *piece));
        } catch (const Fault&) {  // it is nowhere
        }
  if (const auto g = gizmo()) g->paint(p, held_ ? held_->part : Gizmo::Part::none);
}
