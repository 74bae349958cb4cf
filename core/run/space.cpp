#include "run/space.h"

#include <cmath>

#include "picture/camera.h"
#include "shot/animate.h"

namespace pour {
namespace {

/// The bounds before they get a rim of a few cells.
Box box_of(const RunSettings& run, const Box& flow, bool flows_freely, bool pours) {
  Box b = flow;
  if (!run.fit_bounds) {
    b = {};
    b.add(run.bounds_center - run.bounds_size * 0.5), b.add(run.bounds_center + run.bounds_size * 0.5);
  } else if (!b.empty() && flows_freely) {
    const Vec3d s = flow.size();
    const double side = std::max(0.15 * s.x, 0.6 * s.y);
    b.add(b.low - Vec3d{side, 0.4 * s.y, side}),
        b.add(b.high + Vec3d{side, 1.6 * std::max(s.y, 0.25 * s.x), side});
  } else if (!b.empty() && pours) {
    // Space for splashes to the sides and for liquid that falls past everything.
    const Vec3d s = flow.size();
    const double side = 0.2 * std::max({s.x, s.y, s.z});
    b.add(b.low - Vec3d{side, 0.1 * s.y, side}), b.add(b.high + Vec3d{side, 0.1 * s.y, side});
  }
  return b;
}

double aspect(const Film& film) { return double(film.width) / film.height; }

/// How far the corners of a box reach in a picture: 1 is its edge.
Vec3d reach(const View& view, const Box& box) {
  Vec3d most{};
  for (int i = 0; i < 8; ++i) {
    const Vec3f q = view.project(to<float>(Vec3d{
        i & 1 ? box.high.x : box.low.x, i & 2 ? box.high.y : box.low.y, i & 4 ? box.high.z : box.low.z}));
    if (q.z <= 0.01f) return {1e9, 1e9, 0};
    most = max(most, Vec3d{std::abs(q.x), std::abs(q.y), 0});
  }
  return most;
}

}  // namespace

bool is_source(const Shot& shot, const Piece& p) {
  return std::any_of(shot.pours.begin(), shot.pours.end(),
                     [&](const Pour& s) { return s.from == SourceKind::piece && s.source.id == p.id; });
}

bool is_target(const Shot& shot, const Piece& p) {
  return std::any_of(shot.forces.begin(), shot.forces.end(),
                     [&](const Force& f) { return f.as<Gather>() && f.as<Gather>()->piece.id == p.id; });
}

bool is_prop(const Shot& shot, const Piece& p) {
  return p.may_show() && !p.holds && !p.blocks && !p.drains && !is_source(shot, p) && !is_target(shot, p);
}

double floor_kindly(double v) {
  const double power = std::pow(10, std::floor(std::log10(v)));
  return std::floor(v / power * 10) / 10 * power;
}

double round_kindly(double v) {
  const double power = std::pow(10, std::floor(std::log10(v)));
  double best = power;
  for (const double n : {1.0, 1.2, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0, 10.0})
    if (std::abs(std::log(n * power / v)) < std::abs(std::log(best / v))) best = n * power;
  return best;
}

namespace {

constexpr int most_looks = 240;  // at what moves, over a shot

/// Poses of each piece that moves, over the frames of the shot; none for one that stands.
std::vector<std::vector<Pose>> ways(const Shot& shot, const StopAsked& stop) {
  std::vector<std::vector<Pose>> out(shot.pieces.size());
  std::vector<size_t> moving;
  for (size_t i = 0; i < shot.pieces.size(); ++i)
    if (moves(shot, shot.pieces[i])) moving.push_back(i);
  if (moving.empty()) return out;
  const Clock clock(shot);
  const int looks = std::min(shot.film.frames, most_looks);
  for (int k = 0; k < looks; ++k) {
    give_up_if(stop);
    const double frame = looks > 1 ? 1 + double(k) * (shot.film.frames - 1) / (looks - 1) : 1;
    const Shot now = shot_at(shot, clock, clock.time(frame));
    for (const size_t i : moving) out[i].push_back(pose_of(now, now.pieces[i]));
  }
  return out;
}

}  // namespace

Space::Space(const Shot& timed, const StopAsked& stop) {
  Shot shot = shot_at(timed, Clock(timed), 0);
  for (size_t i = 0; i < shot.pieces.size(); ++i) shot.pieces[i].shows = timed.pieces[i].may_show();
  const std::vector<std::vector<Pose>> way = ways(timed, stop);
  double volume = 0, walls = 0;  // of what holds or blocks: m³, m²
  bool holds = false;
  const bool props_alone =
      std::all_of(shot.pieces.begin(), shot.pieces.end(), [&](const Piece& p) { return is_prop(shot, p); });
  Box standing;        // around what stands
  double longest = 0;  // side of anything that moves, m
  for (const Piece& p : shot.pieces) {
    give_up_if(stop);
    bodies.push_back(placed_bodies(shot, p, stop));
    Box box;
    const bool wall = p.holds || p.blocks;
    const bool source = is_source(shot, p), prop = !props_alone && is_prop(shot, p);
    for (const Body& body : bodies.back()) {
      box.add(body.mesh.bounds());
      const double area = body.mesh.area();
      if (wall || source) surface += area;
      if (wall) volume += std::abs(body.mesh.volume()), walls += area;
    }
    const Box alone = box;
    if (const auto& poses = way[boxes.size()]; !poses.empty()) {
      Box own;
      for (const Body& body : *bodies_of(p.shape, stop)) own.add(body.mesh.bounds());
      for (const Pose& pose : poses)
        for (int i = 0; i < 8; ++i)
          box.add(pose * Vec3d{i & 1 ? own.high.x : own.low.x, i & 2 ? own.high.y : own.low.y,
                               i & 4 ? own.high.z : own.low.z});
    }
    // Cells go with how large things are, not with how far they go.
    if ((p.holds || p.blocks || p.may_show() || source) && !prop) {
      const Vec3d size = alone.size();
      if (!way[boxes.size()].empty())
        longest = std::max({longest, size.x, size.y, size.z});
      else
        standing.add(alone);
    }
    boxes.push_back(box);
    pieces.add(box);
    if (!prop) flow.add(box);
    holds = holds || p.holds;
  }
  // Seeds stay in vessels. A piece pours into the vessel that contains it, or around itself.
  flows_freely = !holds && shot.brings(FlowKind::gas);
  pours = shot.brings(FlowKind::liquid);
  for (const Pour& pour : shot.pours) {
    if (!shot.brings(pour, FlowKind::gas)) continue;
    const Piece* source = pour.from == SourceKind::piece ? shot.piece(pour.source.id) : nullptr;
    if (!source || source->holds) continue;
    const Box& box = boxes[size_t(source - shot.pieces.data())];
    bool inside = false;
    for (size_t i = 0; i < boxes.size(); ++i)
      inside = inside || (shot.pieces[i].holds && boxes[i].overlaps(box));
    flows_freely = flows_freely || !inside;
  }

  const Box space = box_of(shot.run, flow, flows_freely, pours);
  cell_size = shot.run.cell_size;
  if (shot.run.detail != Detail::custom) {
    const int detail = int(shot.run.detail);
    constexpr double parts[] = {210, 340, 540};         // of the longest side of the set
    constexpr double strokes[] = {0.4, 0.25, 0.16};     // of volume by surface, which goes with the strokes
    constexpr double most_cells[] = {2e5, 1.2e6, 6e6};  // where smoke fills the space around the set
    constexpr double of_liquid[] = {64, 110, 180};      // of the longest side of the set
    const Vec3d s = standing.size();
    const double side = std::max({s.x, s.y, s.z, longest, 1e-3});
    const double of_strokes = walls > 0 ? strokes[detail] * volume / walls : 0;
    double cell = side / parts[detail];
    // Liquid in strokes needs cells as fine as smoke in strokes.
    if (pours)
      cell =
          holds ? std::min(side / of_liquid[detail], std::max(cell, of_strokes)) : side / of_liquid[detail];
    if (flows_freely) {
      const Vec3d size = space.size();
      cell = std::max(cell, std::cbrt(filled_share * size.x * size.y * size.z / most_cells[detail]));
    } else if (walls > 0 && !pours) {
      cell = std::max(cell, of_strokes);
    }
    cell_size = round_kindly(cell);
  }
  bounds = space;
  if (shot.run.fit_bounds && !bounds.empty()) {
    bounds.grow(4 * cell_size);
    // A closed bottom is the floor that the set stands on.
    if (!shot.run.open_bottom && flow.low.y > -1e-3) bounds.low.y = 0;
  }
}

Camera framed(const Shot& shot, const Space& space) {
  Camera camera = shot.camera;
  const Box& subject = space.subject();
  if (subject.empty()) return camera;
  constexpr double wide = 0.8, high = 0.6;  // of the picture
  camera.target = subject.center();
  double near = 0.01, far = 1e4;
  for (int i = 0; i < 60; ++i) {
    camera.distance = std::sqrt(near * far);
    const Vec3d r = reach(View(camera, aspect(shot.film)), subject);
    (r.x > wide || r.y > high ? near : far) = camera.distance;
  }
  return camera;
}

void stand_on_floor(Shot& shot) {
  constexpr double gap = 0.004;  // m; so that the mirror image does not touch
  for (Piece& p : shot.pieces)
    if (p.may_show())
      if (const double low = piece_mesh(shot, p).bounds().low.y; low < 0) p.position.y += gap - low;
}

bool out_of_picture(const Shot& shot, const Piece& piece, const Box& around_it) {
  if (!piece.may_show()) return false;
  const Vec3d r = reach(View(shot.camera, aspect(shot.film)), around_it);
  return r.x > 1 || r.y > 1;
}

}  // namespace pour
