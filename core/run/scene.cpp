#include "run/scene.h"

#include <cmath>

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

Scene::Scene(const Shot& shot) : Scene(shot, Space(complete(shot))) {}

Scene::Scene(const Shot& shot, const Space& space) : shot_(complete(shot)) {
  const double h = space.cell_size;
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
  std::vector<std::vector<ShapePart>> parts;
  for (const Piece& p : shot.pieces) parts.push_back(piece_parts(p));
  std::vector<Vessel> vessels;
  bool in_bounds = false;
  for (size_t i = 0; i < shot.pieces.size(); ++i) {
    const Piece& piece = shot.pieces[i];
    if (piece.part == Part::blocks) {
      for (const ShapePart& part : parts[i]) world_.blockers.emplace_back(part.mesh, h);
    } else if (piece.part == Part::holds) {
      for (const ShapePart& part : parts[i]) {
        world_.rooms.push_back({LevelSet(part.mesh, h)});
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

  bool any = false;
  for (const Smoke& smoke : shot.smokes) {
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
      any = any || shape.bounds.overlaps(bounds_);
      outside_ = outside_ || room == 0;
      pours_.push_back(std::move(p));
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
    const size_t index = size_t(piece - shot.pieces.data());
    const SourceShape shape = piece_shape(*piece, parts[index], h);
    bool held = false;
    for (size_t room = 0; room < world_.rooms.size(); ++room)
      if (reaches(shape, world_.rooms[room].inside, h)) pour(shape, int(room) + 1), held = true;
    if (!held) pour(shape, 0);
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
  e.memory = 150e6 + 100 * e.cells * (outside_ ? 1 : 2);
  e.disk = shot_.film.frames * e.cells * 8.0 + 45 * e.cells;
  return e;
}

}  // namespace pour
