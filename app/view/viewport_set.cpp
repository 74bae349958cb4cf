// Overlays of pieces on the stage, and dragging them.
#include <algorithm>
#include <cmath>
#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>

#include "base/error.h"
#include "picture/camera.h"
#include "shape/pose.h"
#include "shot/animate.h"
#include "view/analyst.h"
#include "view/frames.h"
#include "view/viewport.h"

using namespace pour;

Vec3d Viewport::dot_place(const Piece& piece, const Pose& pose) {
  if (const auto* tube = std::get_if<Tube>(&piece.shape)) return pose * tube->curve().at(0.5);
  return pose.position;
}

/// Draws the overlays of pieces.
void Viewport::paint_set(QPainter& p) {
  const Stage stage = document_.stage();
  if (stage == Stage::set) find_ways();
  p.setPen(QPen(QColor(255, 255, 255, stage == Stage::set ? 90 : 50), 1, Qt::DashLine));
  paint_box(p, analyst_.now().bounds, {});
  if (stage == Stage::set || !frames_.current().smoke)  // where it will start, until it is seen to
    for (const Staging::Seed& s : seeds_now()) {
      QColor c = QColor(QString::fromStdString(hex(s.color)));
      p.setPen(QPen(c, 1.4));
      c.setAlpha(70);
      p.setBrush(c);
      paint_ball(p, s.center, s.radius);
    }
  std::vector<QRectF> names;
  for (const Piece& piece : document_.shot_now().pieces) {
    Pose pose;
    try {
      pose = pose_of(document_.shot_now(), piece);
    } catch (const Fault&) {  // the checks say what it is
      continue;
    }
    if (!piece.shows) paint_guide(p, piece, pose);
    if (stage != Stage::set) continue;
    paint_line_of(p, piece, pose);
    paint_way(p, piece.id);
    const QPointF at = to_screen(dot_place(piece, pose));
    const bool selected = document_.is_selected(piece.id);
    p.setPen(QPen(QColor(0x23, 0x30, 0x2f), 1));
    p.setBrush(piece.locked ? QColor(120, 124, 122) : QColor(251, 250, 247));
    const double radius = piece.locked ? 3.5 : 6;
    p.drawEllipse(at, radius, radius);
    paint_name(p, piece, at + QPointF(12, selected ? -14 : 4), names);
  }
  if (stage == Stage::set && normals_->isChecked()) paint_normals(p);
  if (stage == Stage::set) paint_selected(p);
}

/// The name of a piece, under those that stand in its place already.
void Viewport::paint_name(QPainter& p, const Piece& piece, QPointF at, std::vector<QRectF>& taken) {
  const QString name = QString::fromStdString(piece.name);
  const QFontMetricsF metrics(p.font());
  const auto place = [&] { return metrics.boundingRect(name).translated(at); };
  const auto covers = [&](const QRectF& other) { return other.intersects(place()); };
  while (std::any_of(taken.begin(), taken.end(), covers)) at.ry() += metrics.height();
  taken.push_back(place());
  p.setPen(QColor(25, 30, 30));  // so that it is read before what is light, too
  for (const QPointF& off : {QPointF(1, 1), QPointF(-1, 1), QPointF(1, -1), QPointF(-1, -1)})
    p.drawText(at + off, name);
  p.setPen(document_.is_selected(piece.id) ? QColor(0x8F, 0xD6, 0xC8) : QColor(251, 250, 247));
  p.drawText(at, name);
}

void Viewport::paint_box(QPainter& p, const Box& b, const Pose& pose) {
  if (b.empty()) return;
  for (int i = 0; i < 8; ++i)
    for (int a = 0; a < 3; ++a) {
      if (i >> a & 1) continue;
      const auto corner = [&](int n) {
        return to_screen(
            pose * Vec3d{n & 1 ? b.high.x : b.low.x, n & 2 ? b.high.y : b.low.y, n & 4 ? b.high.z : b.low.z});
      };
      p.drawLine(corner(i), corner(i | 1 << a));
    }
}

void Viewport::paint_ball(QPainter& p, const Vec3d& center, double radius) {
  const View view(camera_for(size()), double(width()) / std::max(1, height()));
  const QPointF c = to_screen(center), edge = to_screen(center + to<double>(view.right) * radius);
  const double r = std::hypot(edge.x() - c.x(), edge.y() - c.y());
  p.drawEllipse(c, r, r);
}

/// Helpers that are never in the picture.
void Viewport::paint_guide(QPainter& p, const Piece& piece, const Pose& pose) {
  p.setPen(QPen(QColor(143, 214, 184, 170), 1.4));
  if (const auto* tube = std::get_if<Tube>(&piece.shape)) {
    QPolygonF line;
    const Curve curve = tube->curve();
    for (const Vec3d& q : curve.line()) line << to_screen(pose * q);
    p.drawPolyline(line);
    return;
  }
  const auto& guides = analyst_.now().guides;
  const auto outline = guides.find(piece.id);
  if (outline == guides.end()) return;
  const View view(camera_for(size()), double(width()) / std::max(1, height()));
  const Vec3f eye = to<float>(pose.inverse() * to<double>(view.eye));
  QList<QLineF> lines;
  for (const OutlineEdge& e : outline->second)
    if (e.shows(eye))
      lines << QLineF(to_screen(pose * to<double>(e.from)), to_screen(pose * to<double>(e.to)));
  p.drawLines(lines);
}

/// The line of a curve or a profile.
void Viewport::paint_line_of(QPainter& p, const Piece& piece, const Pose& pose) {
  const Points* points = points_of(piece);
  if (!points) return;
  p.setPen(QPen(QColor(251, 250, 247, 200), 1.2));
  QPolygonF line;
  const auto* tube = std::get_if<Tube>(&piece.shape);
  const bool closed = tube && tube->closed;
  const Curve curve(points->list, closed);
  for (const Vec3d& q : curve.line()) line << to_screen(pose * q);
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(line);
  for (size_t i = 0; tube && i < points->sizes.size(); ++i)  // how thick it is there
    paint_ball(p, pose * points->list[i], tube->radius * points->sizes[i] * pose.scale);
}

/// Where a piece goes, with a mark for each frame.
void Viewport::paint_way(QPainter& p, const std::string& piece) {
  const auto way = ways_.find(piece);
  if (way == ways_.end()) return;
  QPolygonF line;
  for (const Vec3d& q : way->second) line << to_screen(q);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(QColor(0xD9, 0x66, 0x3B, 150), 1));
  p.drawPolyline(line);
  p.setPen(Qt::NoPen);
  p.setBrush(QColor(0xD9, 0x66, 0x3B, 220));
  for (const QPointF& q : line) p.drawEllipse(q, 1.8, 1.8);
}

/// Places of all pieces that move, at each frame, or at as many as there is time for.
void Viewport::find_ways() {
  if (ways_known_) return;
  ways_known_ = true;
  ways_.clear();
  const Shot& shot = document_.shot();
  std::vector<std::string> moving;
  for (const Piece& p : shot.pieces)
    if (moves(shot, p)) moving.push_back(p.id);
  if (moving.empty()) return;
  // Few enough for the window not to wait, however many pieces move.
  const int most = std::clamp(3000 / int(moving.size()), 12, 300), marks = std::min(shot.film.frames, most);
  for (int k = 0; k < marks; ++k) {
    const double frame = marks > 1 ? 1 + double(k) * (shot.film.frames - 1) / (marks - 1) : 1;
    const Shot now = shot_at(shot, document_.clock(), document_.clock().time(frame));
    for (const std::string& id : moving) try {
        ways_[id].push_back(dot_place(*now.piece(id), pose_of(now, *now.piece(id))));
      } catch (const Fault&) {  // the checks say what it is
      }
  }
}

/// Where smoke will start, as things stand at the playhead.
std::vector<Staging::Seed> Viewport::seeds_now() const {
  std::vector<Staging::Seed> seeds = analyst_.now().seeds;
  const Shot &shot = document_.shot(), &now = document_.shot_now();
  std::map<std::string, Pose> moved;  // since frame 1
  for (const Piece& p : shot.pieces)
    if (moves(shot, p)) try {
        const Shot first = shot_at(shot, document_.clock(), 0);
        moved[p.id] = pose_of(now, *now.piece(p.id)) * pose_of(first, *first.piece(p.id)).inverse();
      } catch (const Fault&) {  // the checks say what it is
      }
  for (Staging::Seed& s : seeds)
    if (const auto m = moved.find(s.piece); m != moved.end()) s.center = m->second * s.center;
  return seeds;
}

std::string Viewport::dot_at(const QPointF& p) const {
  if (document_.stage() != Stage::set) return {};
  for (const Piece& piece : document_.shot_now().pieces) try {
      if (piece.locked) continue;
      const QPointF d = to_screen(dot_place(piece, pose_of(document_.shot_now(), piece))) - p;
      if (d.x() * d.x() + d.y() * d.y() < 12 * 12) return piece.id;
    } catch (const Fault&) {  // it is nowhere
    }
  return {};
}

/// The menu of the handle there, or of the selection.
void Viewport::contextMenuEvent(QContextMenuEvent* e) {
  if (e->reason() == QContextMenuEvent::Keyboard && document_.stage() == Stage::set &&
      !document_.selected().empty())
    return open_menu(document_.selected().back(), {}, e->globalPos());
  const auto handle = handle_at(e->pos());
  if (!handle || !handle->fill) return;
  QMenu menu(this);
  handle->fill(menu);
  menu.exec(e->globalPos());
}
