#include "run/staging.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <numeric>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "base/units.h"
#include "liquid/liquid.h"
#include "run/arc.h"
#include "shape/thicken.h"
#include "shape/vessels.h"
#include "shot/pouring.h"

namespace pour {
namespace {

constexpr double looked_at = 3e5;       // cells of walls in what is only looked at
constexpr double syrupy = 0.05;         // Pa·s, from which on viscosity takes most of the time
constexpr int most_liquid = 255;        // number that a particle can bear
constexpr size_t most_sources = 20000;  // of all pours
constexpr double tiny = 1e-6;           // s, for rounding of times; frames

/// Whether the box that holds a level set's inside meets another one.
bool room_boxes_overlap(const LevelSet& set, const Box& box) {
  Box own;
  own.add(to<double>(set.first()) * set.cell_size());
  own.add(to<double>(set.first() + set.count()) * set.cell_size());
  return own.overlaps(box);
}

/// Whether a source comes into a room; both in the space of the room.
bool reaches(const SourceShape& source, const LevelSet& room, double cell) {
  const Vec3d size = source.bounds.size();
  Vec3i n;
  for (int a = 0; a < 3; ++a) n[a] = std::clamp(int(size[a] / cell), 2, 40);
  for (int k = 0; k <= n.z; ++k)
    for (int j = 0; j <= n.y; ++j)
      for (int i = 0; i <= n.x; ++i) {
        const Vec3d p = source.bounds.low + Vec3d{size.x * i / n.x, size.y * j / n.y, size.z * k / n.z};
        if (source.distance(p) < 0 && room.distance(p) < 0) return true;
      }
  return false;
}

const Shot& complete(const Shot& shot) {
  if (shot.film.frames < 1)
    throw shot_fault("film.frames", "is zero.", "Make the shot at least one frame long.");
  if (shot.pours.empty()) throw shot_fault("Fluid", "nothing pours in this shot.", "Add a pour.");
  if (shot.pieces.empty())
    throw shot_fault("Set", "there is no piece in this shot.", "Add lettering or a shape.");
  return shot;
}

/// ω of the turn from one pose to another that is dt seconds later, in the world, rad/s.
Vec3d spin_between(const Pose& from, const Pose& to, double dt) {
  const Rotation r = to.turn * from.turn.inverse();
  // The axis from the skew part, the angle from both (Rodrigues).
  const Vec3d axis{r.row[2].y - r.row[1].z, r.row[0].z - r.row[2].x, r.row[1].x - r.row[0].y};
  const double sine = length(axis) / 2, cosine = (r.row[0].x + r.row[1].y + r.row[2].z - 1) / 2;
  return sine > 0 ? normalized(axis) * (std::atan2(sine, cosine) / dt) : Vec3d{};
}

}  // namespace

Fault too_fast(const std::string& when) {
  return shot_fault("Run",
                    filled("the fluid is too fast for its cells: over {most} steps {when}.",
                           {{"most", std::to_string(int(most_steps))}, {"when", when}}),
                    "Lower the source speed or the forces, or use larger cells.");
}

Fault piece_too_fast(const std::string& when) {
  return shot_fault("Run",
                    filled("a piece that blocks is too fast for its cells: it crosses over {most} {when}.",
                           {{"most", std::to_string(int(most_steps))}, {"when", when}}),
                    "Give it more frames for its way, or use larger cells.");
}

namespace {

/// Colours of a piece for fluid poured out of it; null if it has none.
std::shared_ptr<const BodyColors> colors_of(const std::vector<Body>& bodies, const Piece& piece) {
  if (!bodies.empty() && bodies.front().colors) return bodies.front().colors;
  Body::Seen all;
  for (const Body& b : bodies)
    if (b.seen) all.append(*b.seen);
  return pour::colors_of(all, filled("Piece “{name}”: texture", {{"name", piece.name}}));
}

}  // namespace

Staging::Staging(const Shot& shot, const StopAsked& stop)
    : Staging(shot, Space(complete(shot), stop), For::running, stop) {}

Staging::Staging(const Shot& shot, const Space& space, For purpose, const StopAsked& stop)
    : shot_(complete(shot)),
      motion_(shot),
      forces_(shot_, stop),
      cell_size_(space.cell_size),
      bounds_(space.bounds),
      surface_(space.surface) {
  const double wall_cell =
      purpose == For::running ? cell_size_ : std::max(cell_size_, std::sqrt(space.surface / looked_at));
  set_lattice(space);
  add_walls(space, wall_cell, stop);
  add_outlets(space, wall_cell, stop);
}

void Staging::set_lattice(const Space& space) {
  const double h = space.cell_size;
  for (int a = 0; a < 3; ++a)
    if (bounds_.size()[a] / h > 16000) {
      const double least = round_kindly(bounds_.size()[a] / 2000);
      throw shot_fault("Run",
                       filled("the bounds are {bounds} long: far too many cells of {cell}.",
                              {{"bounds", format_quantity(bounds_.size()[a], Unit::length)},
                               {"cell", format_quantity(h, Unit::length)}}),
                       filled("Use cells of {least} or a smaller set.",
                              {{"least", format_quantity(least, Unit::length)}}));
    }
  for (int a = 0; a < 3; ++a) {
    const int low = int(std::floor(bounds_.low[a] / h)), high = int(std::ceil(bounds_.high[a] / h));
    low_[a] = (low >> 3) * 8;
    cells_[a] = (((high - low_[a]) + 8) >> 3) * 8 - 1;
  }
}

void Staging::add_walls(const Space& space, double wall_cell, const StopAsked& stop) {
  for (size_t i = 0; i < shot_.pieces.size(); ++i) {
    const Piece& piece = shot_.pieces[i];
    if (piece.holds || (!piece.blocks && !piece.drains)) continue;
    for (const Body& body : space.bodies[i]) {
      give_up_if(stop);
      const Mesh own = motion_.own(i, as_wall(body, piece.thickens, cell_size_));
      (piece.blocks ? solids_ : drains_).push_back({LevelSet(own, wall_cell), i, 0, {}});
      if (piece.blocks && !are_cut(body, cell_size_)) add_holes(i, body);
    }
  }
  add_rooms(space, wall_cell, stop);
}

void Staging::add_holes(size_t piece, const Body& body) {
  if (body.openings.empty()) return;
  std::map<std::array<int, 3>, Hole> by_place;
  int number = 0;
  const Body::Opening& first = body.openings.front();
  const bool dense = closest(body.openings) < streams_apart * cell_size_;
  for (const Body::Opening& o : body.openings) {
    const Vec3d middle = (o.end[0] + o.end[1]) * 0.5, axis = o.end[0] - o.end[1];
    const double half = std::max(length(axis), thinnest_kept * cell_size_) / 2;
    std::array<int, 3> key{number++, 0, 0};
    for (int a = 0; dense && a < 3; ++a)
      key[size_t(a)] = int(std::floor(middle[a] / (streams_apart * cell_size_)));
    Hole& hole = by_place.try_emplace(key, Hole{.radius = first.radius, .count = 0, .discharge = o.discharge})
                     .first->second;
    hole.count += 1;
    for (int side = 0; side < 2; ++side) hole.end[side] += middle + normalized(axis) * (side ? -half : half);
  }
  for (auto& [key, hole] : by_place) {
    for (Vec3d& end : hole.end) end = motion_.own(piece, end / hole.count);
    holes_.push_back({hole, piece});
  }
}

void Staging::set_holes(LiquidWorld& w, const Shot& now, const Poses& start, const Poses& end,
                        double dt) const {
  for (const auto& [own, piece] : holes_) {
    const Piece& p = now.pieces[piece];
    Hole hole = own;
    if (!p.blocks) hole.count = 0;  // streams are known by the order of holes
    hole.pinned = std::sin(std::min(p.contact_angle, std::numbers::pi / 2));
    if (motion_.moves(piece)) {
      const Vec3d middle = own.middle();
      if (dt > 0) hole.velocity = (end[piece] * middle - start[piece] * middle) / dt;
      for (Vec3d& e : hole.end) e = end[piece] * e;
      hole.radius *= end[piece].scale;
    }
    w.holes.push_back(hole);
  }
}

void Staging::add_rooms(const Space& space, double wall_cell, const StopAsked& stop) {
  bool in_bounds = false;
  for (const Vessel& vessel : vessels_of(shot_, space.bodies)) {
    give_up_if(stop);
    Wall room{{}, vessel.piece(), 0, vessel.parts};
    for (const Vessel::Part& part : vessel.parts) {
      const Mesh& mesh = space.bodies[part.piece][part.body].mesh;
      refuse_growth(shot_.pieces[part.piece]);
      refuse_parting(part.piece, room.piece);
      const LevelSet own(motion_.own(room.piece, mesh), wall_cell);
      room.set = room.set.empty() ? own : room.set.joined(own);
      room.volume += std::abs(mesh.volume());
      in_bounds = in_bounds || motion_.moves(part.piece) || mesh.bounds().overlaps(bounds_);
    }
    if (vessel.parts.size() > 1) room.volume = std::abs(room.set.surface().volume());
    room_volume_ += room.volume;
    rooms_.push_back(std::move(room));
  }
  if (!rooms_.empty() && !in_bounds)
    throw shot_fault("Run", "the bounds miss every piece that holds a fluid.",
                     "Turn on “Fit the bounds”, or move them over the set.");
}

void Staging::refuse_growth(const Piece& piece) const {
  for (const Piece* p = &piece; p; p = shot_.piece(p->path.id.empty() ? p->parent.id : p->path.id))
    if (p->tracks.contains("scale"))
      throw shot_fault(filled("Piece “{name}”", {{"name", piece.name}}),
                       "holds a fluid and changes its size.",
                       "Take the track of its size away, or let it block.");
}

void Staging::refuse_parting(size_t piece, size_t keeper) const {
  if (piece == keeper || (!motion_.moves(piece) && !motion_.moves(keeper))) return;
  const auto way = [&](size_t of, int frame) {
    const Shot now = shot_at(shot_, frame), first = shot_at(shot_, 1);
    return pose_of(now, now.pieces[of]) * pose_of(first, first.pieces[of]).inverse();
  };
  for (int frame = 2; frame <= shot_.film.frames; ++frame) {
    const Pose one = way(piece, frame), other = way(keeper, frame);
    for (const Vec3d& p : {bounds_.low, bounds_.high, Vec3d{bounds_.low.x, bounds_.high.y, bounds_.low.z}})
      if (length(one * p - other * p) > 0.1 * cell_size_)
        throw shot_fault(filled("Piece “{name}”", {{"name", shot_.pieces[piece].name}}),
                         filled("is one vessel with “{other}”, but moves differently.",
                                {{"other", shot_.pieces[keeper].name}}),
                         filled("Attach it to “{other}”.", {{"other", shot_.pieces[keeper].name}}));
  }
}

void Staging::add_outlets(const Space& space, double wall_cell, const StopAsked& stop) {
  for (size_t i = 0; i < shot_.pours.size(); ++i) {
    give_up_if(stop);
    if (!shot_.fluid(shot_.pours[i].fluid.id))
      throw shot_fault(filled("Pour “{name}”", {{"name", shot_.pours[i].name}}),
                       shot_.pours[i].fluid.id.empty() ? "pours no fluid."
                                                       : filled("pours “{id}”, which is not in the shot.",
                                                                {{"id", shot_.pours[i].fluid.id}}),
                       "Choose a fluid for it.");
    if (shot_.pours[i].from == SourceKind::every_body)
      add_seeds(i, space);
    else
      add_piece_source(i, space, wall_cell, stop);
  }
  if (outlets_.empty())
    throw shot_fault("Fluid", "nothing pours: there is no letter to seed.",
                     "Let a piece hold the fluid, or choose a piece as the source.");
  const bool any = std::any_of(outlets_.begin(), outlets_.end(), [&](const Outlet& o) {
    return motion_.moves(o.piece) || o.shape.bounds.overlaps(bounds_);
  });
  if (!any)
    throw shot_fault("Run", "the bounds miss everything that pours.",
                     "Turn on “Fit the bounds”, or move them over the set.");
  share_rates();
}

void Staging::share_rates() {
  std::map<size_t, double> all;                     // by pour
  std::map<std::pair<size_t, int>, int> of_a_room;  // how many of a pour's are in one
  for (const Outlet& o : outlets_) ++of_a_room[{o.pour, o.room}];
  for (Outlet& o : outlets_) {
    o.share = o.room ? rooms_[size_t(o.room) - 1].volume / of_a_room[{o.pour, o.room}] : 1;
    all[o.pour] += o.share;
  }
  for (Outlet& o : outlets_) o.share = all[o.pour] > 0 ? o.share / all[o.pour] : 1;
}

void Staging::add_outlet(Outlet o) {
  const Pour& pour = shot_.pours[o.pour];
  if (const Fluid* f = shot_.fluid(pour.fluid.id); f->as<Liquid>() && f - shot_.fluids.data() > most_liquid)
    throw shot_fault(filled("Fluid “{name}”", {{"name", f->name}}),
                     "comes after 256 others, too late for a liquid.", "Use fewer fluids.");
  check_pace(motion_.first().pours[o.pour], source(o, motion_.first(), Poses(shot_.pieces.size())));
  outside_ = outside_ || o.room == 0;
  outlets_.push_back(std::move(o));
  if (outlets_.size() > most_sources)
    throw shot_fault(
        "Fluid", filled("there are over {most} places that pour.", {{"most", std::to_string(most_sources)}}),
        "Use fewer pours or fewer letters.");
}

namespace {

/// The seeds of a body at all chosen places; places that coincide give one.
std::vector<Body::Seed> seeds_at(const Body& body, Choices places) {
  std::vector<Body::Seed> out;
  for (int i = 0; i < seed_places; ++i)
    for (const Body::Seed& seed : body.seeds[i])
      if (places.has(i) && std::none_of(out.begin(), out.end(), [&](const Body::Seed& o) {
            return length(o.place - seed.place) < o.room / 2;
          }))
        out.push_back(seed);
  return out;
}

}  // namespace

void Staging::add_seeds(size_t index, const Space& space) {
  const Pour& pour = shot_.pours[index];
  // Letters that hold are filled; where none holds, the smoke starts at the letters, from their foot.
  for (size_t i = 0; i < shot_.pieces.size(); ++i) {
    const Piece& piece = shot_.pieces[i];
    if (!piece.holds && (!rooms_.empty() || (!piece.blocks && !piece.may_show()))) continue;
    if (piece.holds && piece.joins) continue;  // a bridge is filled from what it joins
    const auto colors =
        pour.colors == PourColors::piece ? colors_of(*bodies_of(piece.shape), piece) : nullptr;
    for (size_t b = 0; b < space.bodies[i].size(); ++b) {
      const Body& body = space.bodies[i][b];
      const int room = room_of({i, b});
      for (const Body::Seed& seed : seeds_at(body, pour.seed_place)) {
        Outlet o;
        o.own_box = body.mesh.bounds(), o.colors = colors;
        o.piece = i, o.pour = index, o.is_seed = true, o.room = room;
        o.radius = std::max(seed.room * pour.seed_size, 0.9 * cell_size_);
        o.center = seed.place;
        // A letter that blocks has no gas inside: its seed stands just below it.
        if (piece.blocks && !piece.holds) o.center.y = body.mesh.bounds().low.y - 1.5 * o.radius;
        o.center = motion_.own(i, o.center);
        o.shape = SourceShape::ball(o.center, o.radius);
        add_outlet(std::move(o));
      }
    }
  }
}

int Staging::room_of(const Vessel::Part& part) const {
  for (size_t i = 0; i < rooms_.size(); ++i)
    if (std::find(rooms_[i].parts.begin(), rooms_[i].parts.end(), part) != rooms_[i].parts.end())
      return int(i) + 1;
  return 0;
}

void Staging::add_piece_source(size_t index, const Space& space, double wall_cell, const StopAsked& stop) {
  const Pour& pour = shot_.pours[index];
  const Piece* piece = shot_.piece(pour.source.id);
  if (!piece)
    throw shot_fault(filled("Pour “{name}”", {{"name", pour.name}}),
                     pour.source.id.empty()
                         ? "comes from a piece, but none is chosen."
                         : filled("comes from “{id}”, which is not in the set.", {{"id", pour.source.id}}),
                     "Choose a piece as its source.");
  const size_t i = size_t(piece - shot_.pieces.data());
  // Shape and rooms of a source piece are the same for all its pours.
  std::vector<Outlet> same;
  for (const Outlet& o : outlets_)
    if (!o.is_seed && o.piece == i && (same.empty() || same.front().pour == o.pour)) same.push_back(o);
  if (same.empty()) {
    Outlet o;
    o.piece = i;
    Mesh mesh;
    for (const Body& b : space.bodies[i]) mesh.append(b.mesh);
    mesh = motion_.own(i, std::move(mesh));
    if (std::holds_alternative<Ball>(piece->shape)) {
      const Box box = mesh.bounds();
      const double radius =
          std::get<Ball>(piece->shape).radius * pose_of(motion_.first(), motion_.first().pieces[i]).scale;
      o.shape = SourceShape::ball(box.center(), radius);
    } else {
      o.shape = SourceShape::surface(LevelSet(mesh, wall_cell), mesh.bounds(),
                                     mesh.area() / std::max(mesh.volume(), 1e-12));
      Mesh sheet;
      for (const Body& b : space.bodies[i]) sheet.append(b.sheet ? *b.sheet : b.mesh);
      if (std::any_of(space.bodies[i].begin(), space.bodies[i].end(), [](const Body& b) { return b.sheet; }))
        o.shape = o.shape.along(std::make_shared<const NearSurface>(motion_.own(i, std::move(sheet))));
    }
    const Poses start = motion_.poses(motion_.first());
    for (size_t room = 0; room < rooms_.size(); ++room) {
      give_up_if(stop);
      const Pose into = start[rooms_[room].piece].inverse() * start[i];
      const SourceShape there = into == Pose() ? o.shape : o.shape.placed(into);
      if (room_boxes_overlap(rooms_[room].set, there.bounds) && reaches(there, rooms_[room].set, wall_cell)) {
        o.room = int(room) + 1;
        same.push_back(o);
      }
    }
    if (same.empty()) same.push_back(o);
  }
  const auto bodies = bodies_of(piece->shape, stop);
  const auto colors = pour.colors == PourColors::piece ? colors_of(*bodies, *piece) : nullptr;
  for (Outlet& o : same) {
    if (bodies->size() == 1) o.mouth = bodies->front().mouth;
    if (pour.colors == PourColors::piece) o.colors = colors;
    for (const Body& b : *bodies) o.own_box.add(b.mesh.bounds());
    o.pour = index;
    add_outlet(std::move(o));
  }
}

void Staging::set_palette(Palette& palette, const Outlet& o, const Pour& pour) {
  palette.by = Palette::By(pour.colors);
  palette.colors[1] = rgb<double>(pour.second_color), palette.colors[2] = rgb<double>(pour.third_color);
  palette.of_piece = o.colors, palette.patch_size = pour.color_size;
  const int axis = int(pour.ramp_way);
  const Box& box = o.own_box;
  palette.low = box.low;
  palette.way[axis] = box.size()[axis];
}

Source Staging::source(const Outlet& o, const Shot& now, const Poses& poses) const {
  const Pour& pour = now.pours[o.pour];
  Source s;
  const size_t keeper = o.room ? rooms_[size_t(o.room) - 1].piece : 0;
  const bool same_space = o.room && keeper == o.piece;
  if (same_space || (!motion_.moves(o.piece) && !(o.room && motion_.moves(keeper))))
    s.shape = o.shape;
  else
    s.shape = o.shape.placed(o.room ? poses[keeper].inverse() * poses[o.piece] : poses[o.piece]);
  if (pour.from == SourceKind::piece) s.shape = s.shape.shell_of(pour.width);
  s.room = o.room;
  s.sets = pour.mode == PourMode::sets;
  s.density = s.sets ? pour.density : pour.density_rate;
  s.heat = pour.heat;
  const Color& c = now.fluid(pour.fluid.id)->color();
  s.palette.colors[0] = {c.r, c.g, c.b};
  set_palette(s.palette, o, pour);
  s.own = pose_of(now, now.pieces[o.piece]);
  if (o.room) s.own = poses[keeper].inverse() * s.own;
  s.patchiness = pour.patchiness, s.patch_size = pour.patch_size;
  s.patch_rate = pour.patch_rate, s.patch_seed = uint32_t(pour.patch_seed), s.spread = pour.spread;
  const double outward = outward_of(pour);
  if (s.shape.faces())
    s.outwards = outward, s.blows = outward != 0;
  else
    s.divergence = outward * s.shape.area_by_volume;
  if (pour.direction != Direction::outwards && pour.speed > 0) {
    s.blows = true;
    s.velocity = direction_of(pour) * pour.speed;
    if (o.room) s.velocity = poses[keeper].turn.inverse(s.velocity);
  }
  return s;
}

void Staging::check_pace(const Pour& pour, const Source& source) const {
  if (!pour.windows.list.empty() && pour.windows.list.front().from > clock().time(shot_.film.frames)) return;
  GasWorld alone;
  alone.cell_size = cell_size_, alone.gravity = 0;
  alone.sources = {source};
  const double frame = 1 / shot_.film.frame_rate;
  if (frame / pour::longest_step(GasState(), alone, shot_.run.courant, frame) > most_steps)
    throw too_fast(filled("a frame where “{name}” pours", {{"name", pour.name}}));
}

double Staging::poured_share(const Pour& pour, double from, double until) const {
  // A step ends at a frame, and its time is rounded: a smaller share than this is rounding.
  constexpr double rounding = 1e-6;
  const double span = std::max(until - from, tiny);
  const double share = pouring_time(pour, from + tiny / 2, from + tiny / 2 + span) / span;
  return share < rounding ? 0 : share > 1 - rounding ? 1 : share;
}

void Staging::set_room(Room& room, size_t piece, double from, double to) const {
  const auto pose = [&](double time) {
    const Shot now = motion_.at(time);
    Pose p = pose_of(now, now.pieces[piece]);
    p.scale = 1;
    return p;
  };
  room.moves = true;
  room.from = pose(from), room.to = to > from ? pose(to) : room.from;
  if (to <= from) return;
  // Velocities just before both ends, so that what happens in all steps streams_apart is what the whole way
  // changes; smoke begins at rest in its room.
  constexpr double just = 1e-4;  // s
  const Pose before = pose(from > 0 ? from - just : from), after = pose(from > 0 ? from : from + just);
  const Pose nearly = pose(to - just);
  const Vec3d v0 = (after.position - before.position) / just,
              v1 = (room.to.position - nearly.position) / just;
  const Vec3d w0 = spin_between(before, after, just), w1 = spin_between(nearly, room.to, just);
  room.acceleration = (v1 - v0) / (to - from);
  room.spin = room.from.turn.inverse((w0 + w1) * 0.5);
  room.spin_rate = room.from.turn.inverse((w1 - w0) / (to - from));
}

void Staging::set_world(World& w, const Shot& now, const Poses& start, const Poses& end) const {
  w.cell_size = cell_size_, w.low = low_, w.cells = cells_;
  const RunSettings& r = shot_.run;
  const bool open[6] = {r.open_left, r.open_right, r.open_bottom, r.open_top, r.open_back, r.open_front};
  std::copy_n(open, 6, w.open);
  for (const Wall& wall : solids_)
    if (now.pieces[wall.piece].blocks) w.solids.push_back(solid(wall, now, start, end));
  for (const Wall& wall : drains_) w.drains.push_back(solid(wall, now, start, end));
}

namespace {

void set_contact(Solid& s, const Piece& p) {
  s.friction = p.friction, s.contact_angle = p.contact_angle, s.receding_angle = p.receding_angle;
  s.bounce = p.bounce, s.stickiness = p.stickiness;
}

}  // namespace

Solid Staging::solid(const Wall& wall, const Shot& now, const Poses& start, const Poses& end) const {
  Solid s = motion_.moves(wall.piece) ? Solid(wall.set, start[wall.piece], end[wall.piece]) : Solid(wall.set);
  set_contact(s, now.pieces[wall.piece]);
  return s;
}

void Staging::add_sources(World& w, FlowKind flow, const Shot& now, double from, double until,
                          const Poses& start) const {
  for (const Outlet& o : outlets_) {
    if (!now.brings(now.pours[o.pour], flow)) continue;
    const double share = poured_share(now.pours[o.pour], from, until);
    if (share <= 0) continue;
    w.sources.push_back(source(o, now, start));
    w.sources.back().number = int(&o - outlets_.data()), w.sources.back().of_step = share;
  }
}

GasWorld Staging::gas_world(double from, double to, double poured_until) const {
  const Shot now = motion_.at(from);
  const Shot then = motion_.any() && to > from ? motion_.at(to) : now;
  const Poses start = motion_.poses(now), end = motion_.any() && to > from ? motion_.poses(then) : start;
  GasWorld w;
  set_world(w, now, start, end);
  forces_.set(w, FlowKind::gas, now, from, to);
  w.heat_lift = now.gas.heat_lift, w.density_lift = now.gas.density_lift;
  w.density_half_life = now.gas.density_half_life, w.heat_half_life = now.gas.heat_half_life;
  for (const Wall& wall : rooms_) {
    Room room{wall.set};
    if (motion_.moves(wall.piece)) {
      if (!w.rooms.empty() && &wall != rooms_.data() && (&wall - 1)->piece == wall.piece) {
        room = w.rooms.back();  // letters of one piece move as one
        room.inside = wall.set;
      } else {
        set_room(room, wall.piece, from, to);
      }
    }
    w.rooms.push_back(std::move(room));
  }
  add_sources(w, FlowKind::gas, now, from, poured_until, start);
  for (Source& s : w.sources) {
    if (motion_.any()) set_motion(s, outlets_[size_t(s.number)], now, then, to - from);
    s.blows = s.blows || length(s.motion) > 0;
  }
  return w;
}

void Staging::set_inside(LiquidWorld& w, int number, const Shot& now, double from, double to) const {
  const Wall& wall = rooms_[size_t(number) - 1];
  w.cell_size = cell_size_;
  std::fill_n(w.open, 6, false);
  const Vec3i first = wall.set.first(), last = first + wall.set.count();
  for (int a = 0; a < 3; ++a) {
    w.low[a] = ((first[a] - 1) >> 3) * 8;
    w.cells[a] = ((last[a] + 2 - w.low[a] + 8) >> 3) * 8 - 1;
  }
  w.solids = {Solid::around(wall.set)};
  set_contact(w.solids.front(), now.pieces[wall.piece]);
  w.room = Room{wall.set};
  if (motion_.moves(wall.piece)) set_room(*w.room, wall.piece, from, to);
  w.most_held = 0.985 * wall.volume;  // cells are not quite as large as what they are cut from
}

std::vector<int> Staging::liquid_rooms() const {
  std::vector<int> out{0};
  for (const Outlet& o : outlets_)
    if (o.room && shot_.brings(shot_.pours[o.pour], FlowKind::liquid)) out.push_back(o.room);
  std::sort(out.begin(), out.end());
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

uint64_t Staging::room_mark(int room, double time) const {
  if (!room) return 0;
  const size_t index = size_t(room) - 1, piece = rooms_[index].piece;
  size_t before = 0;  // vessels of the same piece
  while (before < index && rooms_[index - before - 1].piece == piece) ++before;
  const Shot now = motion_.at(time);
  const Pose pose = pose_of(now, now.pieces[piece]);  // in the world, also where it never moves
  double numbers[14] = {double(before), pose.scale};
  for (int a = 0; a < 3; ++a) {
    numbers[2 + a] = pose.position[a];
    for (int b = 0; b < 3; ++b) numbers[5 + 3 * a + b] = pose.turn.row[a][b];
  }
  std::string ids;
  for (const Vessel::Part& part : rooms_[index].parts) ids += shot_.pieces[part.piece].id + "\n";
  return checksum(ids + std::string(reinterpret_cast<const char*>(numbers), sizeof numbers));
}

uint64_t Staging::room_marks(double time) const {
  uint64_t marks = rooms_.size();
  for (size_t i = 0; i < rooms_.size(); ++i)
    marks = marks * 0x9E3779B97F4A7C15ull + room_mark(int(i) + 1, time);
  return marks;
}

LiquidWorld Staging::liquid_world(double from, double to, int room) const {
  return liquid_world(from, to, to, room);
}

LiquidWorld Staging::liquid_world_until(double time, double until, int room) const {
  return liquid_world(time, time, until, room);
}

LiquidWorld Staging::liquid_world(double from, double to, double poured_until, int room) const {
  const Shot now = motion_.at(from), then = to > from ? motion_.at(to) : now;
  const Poses start = motion_.poses(now), end = to > from ? motion_.poses(then) : start;
  LiquidWorld w;
  forces_.set(w, FlowKind::liquid, now, from, to);
  if (room) {
    set_inside(w, room, now, from, to);
  } else {
    set_world(w, now, start, end);
    for (const Wall& wall : rooms_) w.solids.push_back(solid(wall, now, start, end));
    set_holes(w, now, start, end, to - from);
  }
  w.liquids.clear();
  const Liquid none;
  for (const Fluid& f : now.fluids) {
    const Liquid* liquid = f.as<Liquid>();
    const Liquid& l = liquid ? *liquid : none;
    w.liquids.push_back(liquid ? matter_of(l) : Matter{.density = 0, .viscosity = 0, .tension = 0});
    w.longest_life.push_back(l.longest_life), w.liveliness.push_back(l.liveliness);
    w.opens.push_back(l.opens), w.mixes_in.push_back(l.mixes_in);
    w.colors.push_back(rgb(f.color()));
  }
  add_sources(w, FlowKind::liquid, now, from, poured_until, start);
  std::erase_if(w.sources, [&](const Source& s) { return s.room != room; });
  for (Source& s : w.sources) set_liquid(s, outlets_[size_t(s.number)], now, then, to - from);
  return w;
}

void Staging::set_liquid(Source& s, const Outlet& o, const Shot& now, const Shot& then, double dt) const {
  const Pour& pour = now.pours[o.pour];
  s.liquid = int(now.fluid(pour.fluid.id) - now.fluids.data());
  s.rate = rate_of(pour) * o.share;
  s.outwards = outward_of(pour);
  s.velocity = direction_of(pour) * pour.speed;
  if (o.room) s.velocity = motion_.pose(rooms_[size_t(o.room) - 1].piece, now).turn.inverse(s.velocity);
  if (o.mouth) {
    s.mouth[0] = place_of(o, now) * *o.mouth, s.mouth[1] = place_of(o, then) * *o.mouth;
    s.velocity += s.mouth[0]->normal() * s.outwards;
  }
  set_motion(s, o, now, then, dt);
}

Pose Staging::place_of(const Outlet& o, const Shot& now) const {
  const Pose in_world = pour::pose_of(now, now.pieces[o.piece]);
  return o.room ? motion_.pose(rooms_[size_t(o.room) - 1].piece, now).inverse() * in_world : in_world;
}

void Staging::set_motion(Source& s, const Outlet& o, const Shot& now, const Shot& then, double dt) const {
  if (dt <= 0) return;
  const Vec3d way = place_of(o, then).position - place_of(o, now).position;
  if (length(way) > tiny * cell_size_) s.motion = way * (now.pours[o.pour].inherit / dt);
}

std::vector<Vec3f> Staging::liquid_colors() const {
  std::vector<Vec3f> out;
  for (const Fluid& f : shot_.fluids) out.push_back(rgb(f.color()));
  return out;
}

std::vector<Source> Staging::fills(FlowKind flow, double after, double until) const {
  std::vector<Source> out;
  for (const Outlet& o : outlets_) {
    const double time = shot_.pours[o.pour].fill_at.time.value_or(1e300);
    if (time <= after + tiny / 100 || time > until + tiny / 100) continue;
    if (!shot_.brings(shot_.pours[o.pour], flow)) continue;
    const Shot now = motion_.at(time);
    Source s = source(o, now, motion_.poses(now));
    s.fills = true, s.density = now.pours[o.pour].density;
    if (flow == FlowKind::liquid) {
      set_liquid(s, o, now, now, 0);
      s.velocity = {}, s.rate = 0;
      constexpr double just = 1e-4;  // s
      if (now.pours[o.pour].replaces_source && time > just) {
        set_motion(s, o, motion_.at(time - just), now, just);
        s.velocity = s.motion;
      }
    }
    out.push_back(std::move(s));
  }
  return out;
}

bool Staging::opens_cells(double after, double until) const {
  return std::any_of(solids_.begin(), solids_.end(), [&](const Wall& wall) {
    const std::optional<double> turns = turns_at(shot_, shot_.pieces[wall.piece]);
    return turns && *turns > after + tiny / 100 && *turns <= until + tiny / 100;
  });
}

double Staging::longest_step(double from, double longest) const {
  std::vector<const Wall*> moving;
  for (const auto* walls : {&solids_, &rooms_})
    for (const Wall& wall : *walls)
      if (motion_.moves(wall.piece) && (walls == &solids_ || outside_)) moving.push_back(&wall);
  double dt = longest;
  for (int i = 0; !moving.empty() && i < 60; ++i) {
    const Poses start = motion_.poses(motion_.at(from)), end = motion_.poses(motion_.at(from + dt));
    if (std::all_of(moving.begin(), moving.end(), [&](const Wall* wall) {
          return Solid(wall->set, start[wall->piece], end[wall->piece]).farthest() <= most_moved * cell_size_;
        }))
      break;
    dt /= 2;
  }
  return dt;
}

std::vector<Staging::Seed> Staging::seeds() const {
  std::vector<Seed> out;
  const Shot& first = motion_.first();
  const Poses poses = motion_.poses(first);
  for (const Outlet& o : outlets_)
    if (o.is_seed)
      out.push_back({poses[o.piece] * o.center, o.radius, first.fluid(first.pours[o.pour].fluid.id)->color(),
                     shot_.pieces[o.piece].id});
  return out;
}

std::vector<RoomMotion> Staging::room_motions(double time) const {
  std::vector<RoomMotion> out;
  constexpr double just = 1e-4;  // s
  const double before = time > 0 ? time - just : time;
  for (size_t i = 0; i < rooms_.size(); ++i) {
    const size_t piece = rooms_[i].piece;
    if (!motion_.moves(piece)) continue;
    const Pose old = motion_.pose(piece, motion_.at(before)),
               now = motion_.pose(piece, motion_.at(before + just));
    out.push_back({int(i) + 1, motion_.pose(piece, motion_.at(time)), (now.position - old.position) / just,
                   spin_between(old, now, just)});
  }
  return out;
}

Estimate Staging::estimate(const Pace& pace) const {
  Estimate e;
  e.frames.assign(size_t(shot_.film.frames), 0);
  if (!brings(FlowKind::gas)) {
    add_liquid(e, pace);
    e.memory += 150e6 + 100 * surface_ / (cell_size_ * cell_size_);
    return e;
  }
  const double h3 = std::pow(cell_size_, 3);
  if (outside_) {
    const Vec3d s = bounds_.size();
    e.cells += filled_share * s.x * s.y * s.z / h3;
  } else {
    // Cells that the wall cuts count too; measured on lettering: a quarter more than fit inside.
    e.cells += 1.25 * room_volume_ / h3;
  }
  const bool measured = pace.seconds_per_cell > 0;
  double speed = measured ? pace.speed : 0.3;  // of smoke that drifts, m/s
  for (const Pour& p : shot_.pours)
    if (p.direction != Direction::outwards) speed = std::max(speed, p.speed);
  // Half a step more, for whole steps are taken.
  const double frame = clock().time(shot_.film.frames + 1) / shot_.film.frames;  // s, on average
  const double steps = std::max(1.0, speed * frame / (shot_.run.courant * cell_size_) + 0.5);
  e.seconds = shot_.film.frames * steps * e.cells * (measured ? pace.seconds_per_cell : 1.4e-6);
  for (double& f : e.frames) f += e.seconds / shot_.film.frames;
  // Blocks reach over the walls of letters, about as far again.
  // The level sets of the walls hold a band of cells on both sides.
  if (brings(FlowKind::liquid)) add_liquid(e, pace);
  e.memory += 150e6 + 140 * e.cells * (outside_ ? 1 : 2) + 100 * surface_ / (cell_size_ * cell_size_);
  e.disk += shot_.film.frames * e.cells * 8.0 + 45 * e.cells;
  return e;
}

void Staging::add_liquid(Estimate& e, const Pace& pace) const {
  const double particle = particle_volume(cell_size_);
  double volume = 0;                                        // of all that will have been poured, m³
  const double film = clock().time(shot_.film.frames + 1);  // s
  double in_shot = 0;                                       // of it, on average: it grows while it is poured
  std::vector<double> by(e.frames.size(), 0);               // in shot at each frame, m³
  for (const Outlet& o : outlets_) {
    const Pour& p = shot_.pours[o.pour];
    if (!shot_.brings(p, FlowKind::liquid)) continue;
    const Vec3d s = o.shape.bounds.size();
    const double whole = s.x * s.y * s.z, area = o.mouth ? o.mouth->area() : std::cbrt(whole * whole);
    const double seconds = seconds_of(shot_, clock(), p), rate = rate_of(p),
                 poured = (rate > 0 ? rate * o.share : area * p.speed) * seconds;
    volume += poured, in_shot += poured * (1 - 0.5 * std::min(1.0, seconds / film));
    if (p.fill_at.time) volume += whole, in_shot += whole;
    for (size_t f = 0; f < by.size(); ++f) {
      const double until = clock().time(double(f) + 1.5);
      if (seconds > 0) by[f] += poured * pouring_time(p, 0, until) / seconds;
      if (p.fill_at.time && *p.fill_at.time <= until) by[f] += whole;
    }
  }
  const double particles = volume / particle;
  // The fastest have fallen through the bounds. Thin liquids measured on pours into a bowl, thick ones on a
  // jar.
  double fastest = 0, step = 1e9, thickest = 0;
  for (const Pour& p : shot_.pours) {
    fastest = std::max(fastest, p.speed);
    const Fluid* f = shot_.fluid(p.fluid.id);
    if (!f || !f->as<Liquid>()) continue;
    const Matter m = matter_of(*f->as<Liquid>());
    if (m.tension > 0) step = std::min(step, longest_step_under_tension(m, cell_size_));
    thickest = std::max(thickest, m.viscosity);
  }
  fastest += std::sqrt(2 * std::abs(gravity_of(shot_.forces)) * bounds_.size().y);
  const bool measured = pace.seconds_per_particle > 0;
  if (measured) fastest = std::max(pace.liquid_speed, 1e-3);
  step = std::min(step, 2 * cell_size_ / fastest);
  const double frame = film / shot_.film.frames;  // s, on average
  const double a_particle = measured            ? pace.seconds_per_particle
                            : thickest > syrupy ? 4e-6
                                                : 7e-7;  // s a step
  e.cells += particles / 8;
  // However little liquid there is; measured on a draft of ten thousand particles. A measured pace has it in
  // it.
  constexpr double each_step = 8e-3, each_frame = 0.05;  // s
  double took =
      shot_.film.frames * (frame / step + 1) * (in_shot / particle * a_particle + (measured ? 0 : each_step));
  if (!measured) took += shot_.film.frames * each_frame;
  const double all = std::accumulate(by.begin(), by.end(), 0.0);
  for (size_t f = 0; f < by.size(); ++f)
    e.frames[f] += all > 0 ? took * by[f] / all : took / double(by.size());
  e.seconds += took;
  e.memory += 150 * particles + 120 * 4 * particles / 8;
  e.disk += shot_.film.frames * in_shot / particle * 45;
}

}  // namespace pour
