// How liquid comes in: at a rate out of a flat mouth, or wherever a shape has room.
#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "liquid/outflow.h"
#include "liquid/scatter.h"
#include "world/inertia.h"

namespace pour {
namespace {

bool is_free(const World& w, const Vec3d& p) {
  for (int a = 0; a < 3; ++a) {
    const double at = p[a] / w.cell_size;
    if (at < w.low[a] || at >= w.low[a] + w.cells[a]) return false;
  }
  return std::none_of(w.solids.begin(), w.solids.end(), [&](const Solid& s) { return s.distance(p) < 0; });
}

/// Adds particles at these places, m.
void add(LiquidState& s, const World& w, const Source& source, const std::vector<Vec3d>& places,
         const std::vector<Vec3d>& velocities, Ledger& ledger) {
  Particles& p = s.particles;
  const size_t first = p.size();
  p.resize(first + places.size());
  for (size_t n = 0; n < places.size(); ++n) {
    p.id[first + n] = s.first_id + s.id_step * s.poured++;
    p.liquid[first + n] = uint8_t(source.liquid);
    p.tint[first + n] = source.palette.by == Palette::By::one ? 0 : pack_tint(source.color_at(places[n]));
    for (size_t a = 0; a < 3; ++a) {
      p.place[a][first + n] = float(places[n][int(a)] / w.cell_size);
      p.velocity[a][first + n] = float(velocities[n][int(a)]);
    }
  }
  ledger.poured += double(places.size()) * particle_volume(w.cell_size);
}

/// Particles owed by a source after these additional seconds.
size_t take_owed(LiquidState& s, const Source& source, double rate, double each, double dt) {
  if (s.owed.size() <= size_t(source.number)) s.owed.resize(size_t(source.number) + 1, 0);
  double& owed = s.owed[size_t(source.number)];
  owed += rate * dt * source.of_step;
  const double whole = std::floor(owed / each);
  owed -= whole * each;
  return size_t(whole);
}

/// A direction at random within an angle of another one.
Vec3d scattered(const Vec3d& v, double angle, float r1, float r2) {
  return turned_off(v, angle * std::sqrt(double(r1)), 2 * std::numbers::pi * double(r2));
}

/// Where a source pours unevenly, whether a particle comes out here; by the number of the attempt.
bool is_poured(const Source& source, const Vec3d& at, double time, uint32_t attempt) {
  return source.patchiness <= 0 || double(scatter(attempt, 6)) < source.patch(at, time);
}
constexpr int most_attempts = 12;  // to find a place where a source pours

void pour_from_mouth(LiquidState& s, const World& w, const Source& source, double dt, Ledger& ledger) {
  const Mouth &from = *source.mouth[0], &to = *source.mouth[1];
  const Outflow out = outflow_of(source);
  if (out.rate <= 0) return;
  const size_t count = take_owed(s, source, out.rate, particle_volume(w.cell_size), dt);
  std::vector<Vec3d> places, velocities;
  for (size_t i = 0; i < count; ++i) {
    // Evenly in time and over the mouth: the sequence that goes with the plastic number (Roberts 2018).
    const uint32_t id = s.poured + uint32_t(i);
    const double t = (double(i) + 0.5) / double(count);
    const auto between = [&](const Vec3d& x, const Vec3d& y) { return x + (y - x) * t; };
    const Vec3d v =
        scattered(out.way * out.speed, source.spread, scatter(id, 1), scatter(id, 2)) + source.motion;
    const auto place = [&](int attempt) {
      const auto [a, b] = in_mouth(from, double(id) + attempt * 7919.0);
      return between(from.middle, to.middle) + between(from.along, to.along) * (a * out.width) +
             between(from.across, to.across) * (b * out.width);
    };
    Vec3d at = place(0);
    for (int k = 1;
         k < most_attempts && !is_poured(source, at, s.time, id * uint32_t(most_attempts) + uint32_t(k)); ++k)
      at = place(k);
    at += v * ((1 - t) * dt);
    if (is_free(w, at)) places.push_back(at), velocities.push_back(v);
  }
  add(s, w, source, places, velocities, ledger);
}

/// The places in a source that hold no particle yet, two along each side of a cell.
std::vector<Vec3d> free_places(const LiquidState& s, const World& w, const Source& source,
                               const ParticleCells& cells) {
  const double h = w.cell_size;
  const BlockTable table(s.grid);
  const Particles& p = s.particles;
  Vec3i from, to;
  for (int a = 0; a < 3; ++a) {
    from[a] = std::max(int(std::floor(source.shape.bounds.low[a] / h)), w.low[a]);
    to[a] = std::min(int(std::floor(source.shape.bounds.high[a] / h)), w.low[a] + w.cells[a] - 1);
  }
  if (to.z < from.z) return {};
  std::vector<std::vector<Vec3d>> slices(size_t(to.z - from.z + 1));
  parallel_for(
      slices.size(),
      [&](size_t slice) {
        const int z = from.z + int(slice);
        for (int y = from.y; y <= to.y; ++y)
          for (int x = from.x; x <= to.x; ++x) {
            uint8_t taken = 0;  // eighths of the cell that hold a particle
            if (const int b = table.find({x >> 3, y >> 3, z >> 3}); b >= 0 && !cells.cell_start.empty()) {
              const int c = ((z & 7) * 8 + (y & 7)) * 8 + (x & 7);
              for (uint32_t n = cells.begin(b, c); n < cells.end(b, c); ++n)
                taken |= uint8_t(1 << ((p.place[0][n] - float(x) >= 0.5f) +
                                       2 * (p.place[1][n] - float(y) >= 0.5f) +
                                       4 * (p.place[2][n] - float(z) >= 0.5f)));
            }
            const uint32_t cell = uint32_t(x) * 73856093u ^ uint32_t(y) * 19349663u ^ uint32_t(z) * 83492791u;
            for (int eighth = 0; eighth < 8; ++eighth) {
              if (taken >> eighth & 1) continue;
              Vec3d at{double(x), double(y), double(z)};
              for (int a = 0; a < 3; ++a) at[a] += eighth >> a & 1 ? 0.75 : 0.25;
              if (source.shape.distance(at * h) >= 0 || !is_free(w, at * h)) continue;
              for (int a = 0; a < 3; ++a)
                at[a] += double(0.3f * (scatter(cell * 8 + uint32_t(eighth), uint32_t(a)) - 0.5f));
              slices[slice].push_back(at * h);
            }
          }
      },
      1);
  std::vector<Vec3d> out;
  for (const auto& slice : slices) out.insert(out.end(), slice.begin(), slice.end());
  return out;
}

/// As many of the free places as are wanted, evenly over them. Where there are too few, as under a surface,
/// others too, `pushed`, from which what is there has to be pushed aside.
std::vector<Vec3d> some_of(const std::vector<Vec3d>& free, const World& w, const Source& source,
                           uint32_t seed, size_t wanted, std::vector<Vec3d>& pushed) {
  std::vector<Vec3d> out;
  for (size_t i = 0; i < free.size(); ++i)
    if ((i + 1) * wanted / free.size() > i * wanted / free.size()) out.push_back(free[i]);
  if (out.size() >= wanted) return out;
  // Where it is too small for them, as if it were larger: in it they would fly apart.
  constexpr double roomy = 4;    // times as much space as they fill
  constexpr size_t tries = 512;  // for each: a shell is but little of its bounds
  const size_t missing = wanted - out.size();
  const Vec3d own = source.shape.bounds.size();
  const double grown = std::max(0.0, std::cbrt(roomy * double(missing) * particle_volume(w.cell_size)) -
                                         std::cbrt(own.x * own.y * own.z)) /
                       2;
  Box box = source.shape.bounds;
  box.grow(grown);
  const Vec3d size = box.size();
  for (size_t i = 0; i < tries * missing && out.size() < wanted; ++i) {
    const uint32_t n = seed + uint32_t(i);
    const Vec3d at = box.low + Vec3d{size.x * double(scatter(n, 3)), size.y * double(scatter(n, 4)),
                                     size.z * double(scatter(n, 5))};
    if (source.shape.distance(at) < grown && is_free(w, at)) out.push_back(at), pushed.push_back(at);
  }
  return out;
}

/// Leaves out places where a source pours less than elsewhere.
void leave_patches(std::vector<Vec3d>& free, const Source& source, const LiquidState& s) {
  if (source.patchiness <= 0) return;
  // Without a rate what is left out would be filled in the next step, unless it is the same places again.
  uint32_t n = source.rate > 0 ? s.poured : 0;
  std::erase_if(free, [&](const Vec3d& at) {
    return source.rate > 0 ? !is_poured(source, at, s.time, ++n) : source.patch(at, s.time) < 0.5;
  });
}

/// How many particles more there is room for: liquid can't be pressed together.
size_t room_left(const LiquidState& s, const LiquidWorld& w) {
  if (w.most_held <= 0) return SIZE_MAX;
  return size_t(std::max(0.0, w.most_held / particle_volume(w.cell_size) - double(s.particles.size())));
}

}  // namespace

void LiquidSolver::pour(LiquidState& s, const LiquidWorld& world, double dt, Ledger& ledger) {
  const size_t first = s.particles.size();
  pushed_.clear();
  for (const Source& source : world.sources) {
    if (source.mouth[0]) {
      pour_from_mouth(s, world, source, dt, ledger);
      continue;
    }
    std::vector<Vec3d> places = free_places(s, world, source, cells_);
    leave_patches(places, source, s);
    size_t wanted = room_left(s, world);
    wanted = std::min(wanted, source.rate > 0
                                  ? take_owed(s, source, source.rate, particle_volume(world.cell_size), dt)
                                  : size_t(std::ceil(double(places.size()) * source.of_step)));
    places = some_of(places, world, source, s.poured, wanted, pushed_);
    std::vector<Vec3d> velocities;
    for (size_t i = 0; i < places.size(); ++i) {
      const uint32_t id = s.poured + uint32_t(i);
      Vec3d v = source.velocity;
      if (source.outwards != 0) v += source.shape.normal(places[i], world.cell_size) * source.outwards;
      velocities.push_back(scattered(v, source.spread, scatter(id, 1), scatter(id, 2)) + source.motion);
    }
    add(s, world, source, places, velocities, ledger);
  }
  // Gravity changes a velocity before it moves a particle, which so falls as if it had half a step's start:
  // what has just begun gets that back, and is where it should be after every step.
  const Vec3d pull = world.room && world.room->moves ? inertia_of(*world.room, world.gravity).pull
                                                     : Vec3d{0, -world.gravity, 0};
  for (size_t n = first; n < s.particles.size(); ++n)
    for (size_t a = 0; a < 3; ++a) s.particles.velocity[a][n] -= float(pull[int(a)] * dt / 2);
}

void LiquidSolver::find_inflow(const LiquidState& s, const LiquidWorld& world, double dt) {
  inflow_.resize(0);
  if (pushed_.empty()) return;
  inflow_.resize(s.grid.size());
  const BlockTable table(s.grid);
  const double h = world.cell_size;
  for (const Vec3d& p : pushed_) {
    Vec3i at;
    for (int a = 0; a < 3; ++a) at[a] = int(std::floor(p[a] / h));
    if (const int b = table.find({at.x >> 3, at.y >> 3, at.z >> 3}); b >= 0)
      inflow_.block(b)[((at.z & 7) * 8 + (at.y & 7)) * 8 + (at.x & 7)] += float(h / (8 * dt));
  }
}

void LiquidSolver::fill(LiquidState& s, const LiquidWorld& world, const std::vector<Source>& sources,
                        Ledger& ledger) {
  for (const Source& source : sources) {
    update_region(s, world, 0);
    std::vector<Vec3d> places = free_places(s, world, source, cells_);
    leave_patches(places, source, s);
    places.resize(std::min(places.size(), room_left(s, world)));
    add(s, world, source, places, std::vector<Vec3d>(places.size(), source.velocity), ledger);
  }
}

}  // namespace pour
