#include "run/scene.h"

#include <cmath>
#include <map>

#include "base/error.h"
#include "base/units.h"
#include "run/space.h"

namespace pour {
namespace {

struct SourceShape {
  Box bounds;
  std::function<double(const Vec3d&)> distance;
  double area_by_volume = 0;  // 1/m
};

SourceShape ball_shape(const Vec3d& center, double radius) {
  SourceShape s;
  s.bounds.add(center);
  s.bounds.grow(radius);
  s.distance = [center, radius](const Vec3d& p) { return length(p - center) - radius; };
  s.area_by_volume = 3 / radius;
  return s;
}

constexpr double looked_at = 3e5;       // cells of walls in a scene to look at
constexpr size_t most_sources = 20000;  // of all smokes

SourceShape piece_shape(const Piece& piece, const std::vector<ShapePart>& parts, double cell) {
  if (piece.kind == PieceKind::ball) return ball_shape(piece.position, piece.radius);
  SourceShape s;
  Mesh mesh;
  for (const ShapePart& p : parts) mesh.append(p.mesh);
  s.bounds = mesh.bounds();
  s.area_by_volume = mesh.area() / std::max(mesh.volume(), 1e-12);
  const LevelSet set(mesh, cell);
  s.distance = [set](const Vec3d& p) { return set.distance(p); };
  return s;
}

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

Vec3d direction(Direction d) {
  switch (d) {
    case Direction::up:
      return {0, 1, 0};
    case Direction::down:
      return {0, -1, 0};
    case Direction::left:
      return {-1, 0, 0};
    case Direction::right:
      return {1, 0, 0};
    case Direction::front:
      return {0, 0, 1};
    case Direction::back:
      return {0, 0, -1};
    case Direction::outwards:
      break;
  }
  return {};
}

}  // namespace

const Shot& Scene::complete(const Shot& shot) {
  if (shot.film.frames < 1)
    throw shot_fault("film.frames", "is zero.", "Make the shot at least one frame long.");
  if (shot.smokes.empty()) throw shot_fault("Fluid", "nothing pours in this shot.", "Add a smoke.");
  if (shot.pieces.empty())
    throw shot_fault("Set", "there is no piece in this shot.", "Add lettering or a shape.");
  return shot;
}

Fault too_fast(const std::string& when) {
  return shot_fault(
      "Run",
      "the smoke is too fast for its cells: over " + std::to_string(int(most_steps)) + " steps " + when + ".",
      "Lower the source speed or the forces, or use larger cells.");
}

void Scene::check_pace(const Smoke& smoke, const GasSource& source) const {
  if (smoke.pour.first > shot_.film.frames) return;
  GasWorld alone = world_;
  alone.rooms.clear(), alone.blockers.clear();
  alone.sources = {source};
  const double frame = 1.0 / shot_.film.fps;
  if (frame / longest_step(GasState(), alone, shot_.run.courant, frame) > most_steps)
    throw too_fast("a frame where “" + smoke.name + "” pours");
}

Scene::Scene(const Shot& shot, const StopAsked& stop)
    : Scene(shot, Space(complete(shot), stop), For::running, stop) {}

Scene::Scene(const Shot& shot, const Space& space, For purpose, const StopAsked& stop)
    : surface_(space.surface), shot_(complete(shot)) {
  const double h = space.cell_size;
  const double wall_cell = purpose == For::running ? h : std::max(h, std::sqrt(space.surface / looked_at));
  bounds_ = space.bounds;
  for (int a = 0; a < 3; ++a)
    if (bounds_.size()[a] / h > 16000) {
      const double least = round_kindly(bounds_.size()[a] / 2000);
      throw shot_fault("Run",
                       "the bounds are " + format_quantity(bounds_.size()[a], Unit::length) +
                           " long: far too many cells of " + format_quantity(h, Unit::length) + ".",
                       "Use cells of " + format_quantity(least, Unit::length) + " or a smaller set.");
    }
  world_.cell_size = h;
  for (int a = 0; a < 3; ++a) {
    const int low = int(std::floor(bounds_.low[a] / h)), high = int(std::ceil(bounds_.high[a] / h));
    world_.low[a] = (low >> 3) * 8;
    world_.cells[a] = (((high - world_.low[a]) + 8) >> 3) * 8 - 1;
  }
  const RunSettings& r = shot.run;
  const bool open[6] = {r.open_left, r.open_right, r.open_bottom, r.open_top, r.open_back, r.open_front};
  std::copy_n(open, 6, world_.open);
  world_.gravity = shot.forces.gravity;
  world_.heat_lift = shot.gas.heat_lift, world_.density_lift = shot.gas.density_lift;
  world_.density_half_life = shot.gas.density_half_life, world_.heat_half_life = shot.gas.heat_half_life;
  world_.turbulence_speed = shot.forces.turbulence_speed,
  world_.turbulence_size = shot.forces.turbulence_size;
  world_.turbulence_rate = shot.forces.turbulence_rate;
  world_.confinement_speed = shot.forces.confinement_speed,
  world_.confinement_length = shot.forces.confinement_length;

  // Pieces: each connected part that holds is a room of its own.
  struct Vessel {
    const ShapePart* part;
    int room;  // 0: none, smoke starts around it
    const Piece* piece;
  };
  const auto& parts = space.parts;
  std::vector<Vessel> vessels;
  std::vector<Box> room_boxes;
  bool in_bounds = false;
  for (size_t i = 0; i < shot.pieces.size(); ++i) {
    const Piece& piece = shot.pieces[i];
    if (piece.part == Part::blocks) {
      for (const ShapePart& part : parts[i])
        give_up_if(stop), world_.blockers.emplace_back(part.mesh, wall_cell);
    } else if (piece.part == Part::holds) {
      for (const ShapePart& part : parts[i]) {
        give_up_if(stop);
        world_.rooms.push_back({LevelSet(part.mesh, wall_cell)});
        room_boxes.push_back(part.mesh.bounds());
        room_volume_ += std::abs(part.mesh.volume());
        vessels.push_back({&part, int(world_.rooms.size()), &piece});
        in_bounds = in_bounds || part.mesh.bounds().overlaps(bounds_);
      }
    } else if (piece.part == Part::shows) {
      for (const ShapePart& part : parts[i]) vessels.push_back({&part, 0, &piece});
    }
    if (piece.part == Part::blocks)
      for (const ShapePart& part : parts[i]) vessels.push_back({&part, 0, &piece});
  }
  if (!vessels.empty() && !world_.rooms.empty() && !in_bounds)
    throw shot_fault("Run", "the bounds miss every piece that holds smoke.",
                     "Turn on “Fit the bounds”, or move them over the set.");

  // What a piece pours as, and into which rooms, is the same for every smoke that comes out of it.
  struct Outlet {
    SourceShape shape;
    std::vector<int> rooms;
  };
  std::map<size_t, Outlet> outlets;
  const auto outlet_of = [&](size_t piece) -> const Outlet& {
    const auto [at, made] = outlets.try_emplace(piece);
    if (!made) return at->second;
    Outlet& o = at->second;
    o.shape = piece_shape(shot.pieces[piece], parts[piece], wall_cell);
    for (size_t room = 0; room < world_.rooms.size(); ++room) {
      give_up_if(stop);
      if (room_boxes[room].overlaps(o.shape.bounds) && reaches(o.shape, world_.rooms[room].inside, wall_cell))
        o.rooms.push_back(int(room) + 1);
    }
    if (o.rooms.empty()) o.rooms.push_back(0);
    return o;
  };

  bool any = false;
  for (const Smoke& smoke : shot.smokes) {
    give_up_if(stop);
    const auto pour = [&](const SourceShape& shape, int room) {
      Pour p;
      p.frames = smoke.pour;
      GasSource& s = p.source;
      s.bounds = shape.bounds, s.distance = shape.distance, s.room = room;
      s.sets = smoke.mode == PourMode::sets;
      s.density = s.sets ? smoke.density : smoke.density_rate;
      s.heat = smoke.heat;
      s.color = {smoke.color.r, smoke.color.g, smoke.color.b};
      s.patchiness = smoke.patchiness, s.patch_size = smoke.patch_size;
      if (smoke.direction == Direction::outwards) {
        s.divergence = smoke.speed * shape.area_by_volume;
      } else if (smoke.speed > 0) {
        s.blows = true;
        s.velocity = direction(smoke.direction) * smoke.speed;
      }
      check_pace(smoke, s);
      any = any || shape.bounds.overlaps(bounds_);
      outside_ = outside_ || room == 0;
      pours_.push_back(std::move(p));
      if (pours_.size() > most_sources)
        throw shot_fault("Fluid", "there are over " + std::to_string(most_sources) + " places that pour.",
                         "Use fewer smokes or fewer letters.");
    };
    if (smoke.from == SourceKind::every_part) {
      // Letters that hold are filled; where none holds, the smoke starts at the letters, from their foot.
      bool rooms = false;
      for (const Vessel& v : vessels) rooms = rooms || v.room > 0;
      for (const Vessel& v : vessels) {
        if (rooms && v.room == 0) continue;
        for (const ShapePart::Seed& seed : v.part->seeds[int(smoke.seed_place)]) {
          const double radius = std::max(seed.room * smoke.seed_size, 0.9 * h);
          Vec3d center = seed.place;
          // A letter that blocks has no gas inside: its seed stands just below it.
          if (v.piece->part == Part::blocks) center.y = v.part->mesh.bounds().low.y - 1.5 * radius;
          pour(ball_shape(center, radius), v.room);
          seeds_.push_back({center, radius, smoke.color});
        }
      }
      continue;
    }
    const Piece* piece = shot.piece(smoke.source);
    if (!piece)
      throw shot_fault("Smoke “" + smoke.name + "”",
                       smoke.source.empty() ? "comes from a piece, but none is chosen."
                                            : "comes from “" + smoke.source + "”, which is not in the set.",
                       "Choose a piece as its source.");
    const Outlet& outlet = outlet_of(size_t(piece - shot.pieces.data()));
    for (const int room : outlet.rooms) pour(outlet.shape, room);
  }
  if (pours_.empty())
    throw shot_fault("Fluid", "nothing pours: there is no letter to seed.",
                     "Let a piece hold the smoke, or choose a piece as the source.");
  if (!any)
    throw shot_fault("Run", "the bounds miss everything that pours.",
                     "Turn on “Fit the bounds”, or move them over the set.");
}

GasWorld Scene::world(double time) const {
  GasWorld w = world_;
  // A frame's window ends where the next frame begins; the tiny allowance is for rounding of the time.
  const double frame = time * shot_.film.fps + 1 + 1e-6;
  for (const Pour& p : pours_)
    if (frame >= p.frames.first && frame < p.frames.last + 1) w.sources.push_back(p.source);
  return w;
}

Estimate Scene::estimate(const Pace& pace) const {
  Estimate e;
  const double h3 = std::pow(world_.cell_size, 3);
  if (outside_) {
    const Vec3d s = bounds_.size();
    e.cells += filled_share * s.x * s.y * s.z / h3;
  } else {
    // Cells that the wall cuts count too; measured on lettering: a quarter more than fit inside.
    e.cells += 1.25 * room_volume_ / h3;
  }
  const bool measured = pace.seconds_per_cell > 0;
  double speed = measured ? pace.speed : 0.3;  // of smoke that drifts, m/s
  for (const Pour& p : pours_) speed = std::max(speed, length(p.source.velocity));
  // Half a step more, for whole steps are taken.
  const double steps = std::max(1.0, speed / (shot_.film.fps * shot_.run.courant * world_.cell_size) + 0.5);
  e.seconds = shot_.film.frames * steps * e.cells * (measured ? pace.seconds_per_cell : 1.4e-6);
  // Blocks reach over the walls of letters, about as far again.
  // The level sets of the walls hold a band of cells on both sides.
  e.memory =
      150e6 + 100 * e.cells * (outside_ ? 1 : 2) + 100 * surface_ / (world_.cell_size * world_.cell_size);
  e.disk = shot_.film.frames * e.cells * 8.0 + 45 * e.cells;
  return e;
}

}  // namespace pour
