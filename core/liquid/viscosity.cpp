#include "liquid/viscosity.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <tuple>

#include "base/parallel.h"
#include "liquid/outflow.h"
#include "solve/cells.h"
#include "solve/rows.h"

namespace pour {
namespace {

constexpr double tolerance = 1e-4;  // of the residual that there was
constexpr int most_iterations = 400;

template <int axis>
v8 at_minus(const LatticePlane<float>& p, int y) {
  return axis == 0 ? p.left(y) : axis == 1 ? p.below(y) : p.behind(y);
}
template <int axis>
v8 at_plus(const LatticePlane<float>& p, int y) {
  return axis == 0 ? p.right(y) : axis == 1 ? p.above(y) : p.before(y);
}

/// Liquid share of each cell; -1 if solid.
Floats parts_of(const LiquidState& s) {
  const BlockGrid& g = s.grid;
  Floats part(g.size());
  std::fill_n(part.block(outside_wall), block_cells, -1.f);
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c) {
      const uint8_t v = s.geometry.volume.block(b)[c];
      const float d = s.surface.block(b)[c];
      part.block(b)[c] = v == 0 ? -1 : v == outside_volume || d >= 0 ? 0 : std::clamp(0.5f - d, 0.f, 1.f);
    }
  });
  return part;
}

constexpr float held = -1;  // in place of a mass: the face keeps its velocity, as in a solid

/// Whether the middle of a face is in one, or so near that nothing can be sheared between them.
bool in_solid(const BlockGrid& g, const NearSolids& near, double h, int b, int c, int axis) {
  return !near.empty() && near.distance(face_middle(g, b, c, axis, h), h) <= 0.05 * h;
}

/// LiquidFaces as viscosity meets them: those whose velocity is to be found out, and those that something
/// holds.
struct LiquidFaces {
  const BlockGrid& grid;
  const Bytes* const (&open)[3];
  const Floats (&mass)[3];
  const World& world;

  bool is_own(int a, size_t n) const { return mass[a].data()[n] > 0; }
  /// Whether a face that is next to one that is to be found out, along `to`, takes part: it is another one of
  /// them, or one of a solid or of the floor.
  bool counts(int a, size_t n, int to) const {
    if (n < size_t(first_block) * block_cells) return int(n / block_cells) == outside_wall && to == 1;
    if (mass[a].data()[n] != 0) return true;
    const int c = int(n % block_cells);
    const Vec3i at = grid.key(int(n / block_cells)).at * 8 + Vec3i{c & 7, c >> 3 & 7, c >> 6} - world.low;
    return !open[a]->data()[n] && at.x < world.cells.x && at.y < world.cells.y && at.z < world.cells.z;
  }

  /// From a face to the next one, in a solid: how much of the way lies before it, and how straight into it
  /// that leads, in cells. Half of the way to the floor.
  struct Way {
    float part, straight;
  };
  Way way_to_wall(const NearSolids& near, int a, size_t in, size_t out) const {
    constexpr double nearest = 0.1;
    if (near.empty() || out < size_t(first_block) * block_cells) return {0.5f, 1};
    const double h = world.cell_size;
    const auto distance = [&](size_t n) {
      return near.distance(face_middle(grid, int(n / block_cells), int(n % block_cells), a, h), h);
    };
    const double d = std::max(distance(in), 0.0), deep = -distance(out);
    if (deep < 0) return {0.5f, 1};
    return {float(std::clamp(d / std::max(d + deep, 1e-9), nearest, 1.0)), float((d + deep) / h)};
  }

  /// The edge between the faces of two components, x and the next one, at the lower corner of a cell.
  struct Edge {
    size_t cells[4];  // around it
    float way;  // over which what it joins is sheared, in cells: to a solid only as far as to its surface
  };
  std::optional<Edge> edge(const NearSolids& near, int b, int c, int x) const {
    const int y = (x + 1) % 3;
    const int* around = grid.around(b);
    const size_t n = size_t(b) * block_cells + size_t(c), nx = before(around, b, c, x),
                 ny = before(around, b, c, y);
    if (!counts(x, n, x) || !counts(x, ny, y) || !counts(y, n, y) || !counts(y, nx, x)) return {};
    const int bx = int(nx / block_cells);
    const size_t nxy = bx < first_block ? nx : before(grid.around(bx), bx, int(nx % block_cells), y);
    Way way{1, 0};
    for (const auto& [a, in, out] : {std::tuple{x, n, ny}, {y, n, nx}})
      if (const bool here = is_own(a, in); here != is_own(a, out))
        if (const Way w = way_to_wall(near, a, here ? in : out, here ? out : in); w.straight > way.straight)
          way = w;
    return Edge{{n, nx, ny, nxy}, way.part};
  }

  /// How much of the space around a face, half of the way to the next ones beside it, is before solids.
  float width(const NearSolids& near, int b, int c, int a) const {
    const int* around = grid.around(b);
    const size_t n = size_t(b) * block_cells + size_t(c);
    float part = 1;
    for (int o = 0; o < 3; ++o) {
      if (o == a) continue;
      float sum = 0;
      for (const size_t next : {before(around, b, c, o), after(around, b, c, o)})
        sum += is_own(a, next) || !counts(a, next, o) ? 1 : way_to_wall(near, a, n, next).part;
      part *= sum / 2;
    }
    return part;
  }
};

}  // namespace

Viscosity::Viscosity(const LiquidState& s, const Floats& viscosity, double density, const World& world,
                     const Bytes (&kept)[3], double dt)
    : grid_(s.grid) {
  const double h = world.cell_size;
  for (auto* fields : {&mass_, &diagonal_, &shear_, &stretched_, &sheared_})
    for (Floats& f : *fields) f.resize(grid_.size());
  stretch_.resize(grid_.size());
  weigh(s, viscosity, world, kept, float(dt / (density * h * h)));
  for (int b = first_block; b < grid_.size(); ++b) {
    bool any = false;
    for (const Floats* f : {&mass_[0], &mass_[1], &mass_[2], &stretch_, &shear_[0], &shear_[1], &shear_[2]})
      any = any || std::any_of(f->block(b), f->block(b) + block_cells, [](float x) { return x != 0; });
    if (any) active_.push_back(b);
  }
  find_diagonal();
}

void Viscosity::weigh(const LiquidState& s, const Floats& viscosity, const World& world,
                      const Bytes (&kept)[3], float k) {
  const Floats part = parts_of(s);
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  parallel_for(size_t(grid_.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = grid_.around(b);
    const NearSolids near(world.solids, world.cell_size, grid_.key(b).at * 8);
    for (int c = 0; c < block_cells; ++c) {
      const size_t n = size_t(b) * block_cells + size_t(c);
      if (part.data()[n] > 0) stretch_.data()[n] = 2 * k * viscosity.data()[n] * part.data()[n];
      for (int a = 0; a < 3; ++a) {
        const float here = part.data()[n], low = part.data()[before(around, b, c, a)];
        if (!face[a]->data()[n] || (here <= 0 && low <= 0)) continue;
        const float mean = here < 0 ? low : low < 0 ? here : (here + low) / 2;
        const bool keeps = kept[a].size() && kept[a].data()[n];
        mass_[a].data()[n] = keeps || in_solid(grid_, near, world.cell_size, b, c, a) ? held : mean;
      }
    }
  });
  const LiquidFaces faces{grid_, face, mass_, world};
  parallel_for(size_t(grid_.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const NearSolids near(world.solids, world.cell_size, grid_.key(b).at * 8);
    for (int c = 0; c < block_cells; ++c)
      for (int x = 0; x < 3; ++x)
        if (const auto edge = faces.edge(near, b, c, x)) {
          float parts = 0, open = 0, thick = 0, wet = 0;
          for (const size_t m : edge->cells) {
            if (part.data()[m] >= 0) parts += part.data()[m], ++open;
            if (part.data()[m] > 0) thick += viscosity.data()[m], ++wet;
          }
          if (wet > 0)
            shear_[pair(x, (x + 1) % 3)].data()[size_t(b) * block_cells + size_t(c)] =
                k * thick / wet * parts / open / edge->way;
        }
  });
  std::vector<std::vector<std::pair<float*, float>>> narrow(size_t(grid_.blocks()));
  parallel_for(narrow.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    const NearSolids near(world.solids, world.cell_size, grid_.key(b).at * 8);
    if (near.empty()) return;
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c)
        if (float& mass = mass_[a].block(b)[c]; mass > 0)
          if (const float part = faces.width(near, b, c, a); part < 1) narrow[i].emplace_back(&mass, part);
  });
  parallel_for(narrow.size(), [&](size_t i) {
    for (const auto& [mass, part] : narrow[i]) *mass *= part;
  });
}

void Viscosity::find_diagonal() {
  parallel_for(active_.size(), [&](size_t i) {
    const int b = active_[i];
    const int* around = grid_.around(b);
    for (int c = 0; c < block_cells; ++c)
      for (int a = 0; a < 3; ++a) {
        const size_t n = size_t(b) * block_cells + size_t(c);
        if (mass_[a].data()[n] <= 0) continue;
        float sum = mass_[a].data()[n] + stretch_.data()[n] + stretch_.data()[before(around, b, c, a)];
        for (int o = 0; o < 3; ++o)
          if (o != a) sum += shear_[pair(a, o)].data()[n] + shear_[pair(a, o)].data()[after(around, b, c, o)];
        diagonal_[a].data()[n] = sum;
      }
  });
}

void Viscosity::apply(const Floats* const (&in)[3], Floats (&out)[3]) {
  parallel_for(active_.size(), [&](size_t i) {
    const int b = active_[i];
    const int* around = grid_.around(b);
    const Around<float> u(*in[0], around, b), v(*in[1], around, b), w(*in[2], around, b);
    for (int z = 0; z < 8; ++z) {
      const LatticePlane<float> pu = u.plane(z), pv = v.plane(z), pw = w.plane(z);
      for (int y = 0; y < 8; ++y) {
        const int c = Around<float>::row(y, z);
        const auto put = [&](Floats& to, const Floats& weight, v8 rate) {
          store(to.block(b) + c, load(weight.block(b) + c) * rate);
        };
        const v8 hu = pu.at(y), hv = pv.at(y), hw = pw.at(y);
        put(stretched_[0], stretch_, at_plus<0>(pu, y) - hu);
        put(stretched_[1], stretch_, at_plus<1>(pv, y) - hv);
        put(stretched_[2], stretch_, at_plus<2>(pw, y) - hw);
        put(sheared_[0], shear_[0], hu - at_minus<1>(pu, y) + hv - at_minus<0>(pv, y));
        put(sheared_[1], shear_[1], hv - at_minus<2>(pv, y) + hw - at_minus<1>(pw, y));
        put(sheared_[2], shear_[2], hw - at_minus<0>(pw, y) + hu - at_minus<2>(pu, y));
      }
    }
  });
  parallel_for(active_.size(), [&](size_t i) {
    const int b = active_[i];
    const int* around = grid_.around(b);
    const Around<float> sx(stretched_[0], around, b), sy(stretched_[1], around, b),
        sz(stretched_[2], around, b);
    const Around<float> xy(sheared_[0], around, b), yz(sheared_[1], around, b), zx(sheared_[2], around, b);
    for (int z = 0; z < 8; ++z) {
      const LatticePlane<float> px = sx.plane(z), py = sy.plane(z), pz = sz.plane(z);
      const LatticePlane<float> pxy = xy.plane(z), pyz = yz.plane(z), pzx = zx.plane(z);
      for (int y = 0; y < 8; ++y) {
        const int c = Around<float>::row(y, z);
        const auto put = [&](int a, v8 pull) {
          const v8 mass = load(mass_[a].block(b) + c);
          const v8 all = mass * load(in[a]->block(b) + c) + pull;
          store(out[a].block(b) + c, choose(mass > splat(0), all, splat(0)));
        };
        put(0,
            at_minus<0>(px, y) - px.at(y) + pxy.at(y) - at_plus<1>(pxy, y) + pzx.at(y) - at_plus<2>(pzx, y));
        put(1,
            at_minus<1>(py, y) - py.at(y) + pxy.at(y) - at_plus<0>(pxy, y) + pyz.at(y) - at_plus<2>(pyz, y));
        put(2,
            at_minus<2>(pz, y) - pz.at(y) + pyz.at(y) - at_plus<1>(pyz, y) + pzx.at(y) - at_plus<0>(pzx, y));
      }
    }
  });
}

int Viscosity::solve(LiquidState& s) {
  Floats* x[3] = {&s.u, &s.v, &s.w};
  Floats r[3], d[3], q[3];
  for (int a = 0; a < 3; ++a) r[a].resize(grid_.size()), d[a].resize(grid_.size()), q[a].resize(grid_.size());
  // Ordered sum of f over unknown faces.
  const auto sum = [&](const auto& f) {
    return ordered_sum<double>(active_.size(), [&](size_t i) {
      double part = 0;
      for (int a = 0; a < 3; ++a)
        for (size_t n = size_t(active_[i]) * block_cells, last = n + block_cells; n < last; ++n)
          if (mass_[a].data()[n] > 0) part += f(a, n);
      return part;
    });
  };
  const Floats* start[3] = {x[0], x[1], x[2]};
  apply(start, q);
  double rho = sum([&](int a, size_t n) {
    const float residual = mass_[a].data()[n] * x[a]->data()[n] - q[a].data()[n];
    r[a].data()[n] = residual, d[a].data()[n] = residual / diagonal_[a].data()[n];
    return double(residual) * double(d[a].data()[n]);
  });
  const double enough = rho * tolerance * tolerance;
  const Floats* along[3] = {&d[0], &d[1], &d[2]};
  int iteration = 0;
  for (; iteration < most_iterations && rho > enough && rho > 1e-30; ++iteration) {
    apply(along, q);
    const double dq = sum([&](int a, size_t n) { return double(d[a].data()[n]) * double(q[a].data()[n]); });
    const float alpha = float(rho / dq);
    const double next = sum([&](int a, size_t n) {
      x[a]->data()[n] += alpha * d[a].data()[n];
      const float residual = r[a].data()[n] -= alpha * q[a].data()[n];
      return double(residual) * double(residual / diagonal_[a].data()[n]);
    });
    const float beta = float(next / rho);
    rho = next;
    parallel_for(active_.size(), [&](size_t i) {
      for (int a = 0; a < 3; ++a)
        for (size_t n = size_t(active_[i]) * block_cells, last = n + block_cells; n < last; ++n)
          if (mass_[a].data()[n] > 0)
            d[a].data()[n] = r[a].data()[n] / diagonal_[a].data()[n] + beta * d[a].data()[n];
    });
  }
  return iteration;
}

namespace {

/// Pa·s of a liquid that is sheared at this rate, 1/s.
float thickness_at(const Matter& m, float rate) {
  constexpr double slowest = 0.05;  // 1/s: slower it counts as still, so that it does not become solid
  if (m.yield <= 0 && m.exponent == 1) return float(m.viscosity);
  const double g = std::max(double(rate), slowest);
  return float(m.yield / g + m.viscosity * std::pow(g, m.exponent - 1));
}

}  // namespace

/// How fast each cell is sheared: √(2 D : D), 1/s.
Floats LiquidSolver::shear_rate(const LiquidState& s, double h) const {
  const BlockGrid& g = s.grid;
  const Floats* velocity[3] = {&s.u, &s.v, &s.w};
  Floats rate(g.size());
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      if (s.surface.block(b)[c] >= 0) continue;
      // Of component k along a, at the middle, from the middles beside it that are liquid.
      const auto middle = [&](size_t n, int k) {
        const int nb = int(n / block_cells), nc = int(n % block_cells);
        if (nb < first_block || s.surface.data()[n] >= 0)
          return 0.5f * (velocity[k]->block(b)[c] + velocity[k]->data()[after(around, b, c, k)]);
        return 0.5f * (velocity[k]->data()[n] + velocity[k]->data()[after(g.around(nb), nb, nc, k)]);
      };
      float slope[3][3];
      for (int k = 0; k < 3; ++k)
        for (int a = 0; a < 3; ++a)
          slope[k][a] = k == a
                            ? velocity[k]->data()[after(around, b, c, k)] - velocity[k]->block(b)[c]
                            : 0.5f * (middle(after(around, b, c, a), k) - middle(before(around, b, c, a), k));
      float sum = 0;
      for (int k = 0; k < 3; ++k)
        for (int a = 0; a < 3; ++a) {
          const float d = 0.5f * (slope[k][a] + slope[a][k]);
          sum += 2 * d * d;
        }
      rate.block(b)[c] = std::sqrt(sum) / float(h);
    }
  });
  return rate;
}

namespace {

/// LiquidFaces that are open but whose middle is in a solid go along with it, as far as it takes liquid
/// along: what is thick is sheared against them.
void hold_in_solids(LiquidState& s, const LiquidWorld& world, double dt) {
  constexpr double adheres = 8;  // so much sooner than what is thin: only what is waxed lets it slip
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const double h = world.cell_size;
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const NearSolids near(world.solids, h, s.grid.key(b).at * 8);
    if (near.empty()) return;
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c) {
        if (!face[a]->block(b)[c] || !in_solid(s.grid, near, h, b, c, a)) continue;
        const Vec3d p = face_middle(s.grid, b, c, a, h);
        const Solid* solid = near.nearest(p, h);
        if (!solid) continue;
        float& v = velocity[a]->block(b)[c];
        const Vec3d at = p - near.away(p, 0.25 * h) * near.distance(p, h);  // on its surface
        const float with = float(solid->velocity(at, dt)[a]);
        v = with + float(std::pow(1 - solid->friction, adheres)) * (v - with);
      }
  });
}

/// What comes out of a mouth is held by it, and what is thick hangs from that: faces in the mouth go as fast
/// as it pours. Marks them.
void hold_at_mouths(LiquidState& s, const LiquidWorld& world, Bytes (&kept)[3]) {
  constexpr double beside = 0.75;  // cells, to both sides: there is one face at least
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const double h = world.cell_size;
  for (const Source& source : world.sources) {
    if (!source.mouth[0]) continue;
    const Mouth& mouth = *source.mouth[0];
    const Outflow out = outflow_of(source);
    if (out.rate <= 0) continue;
    const Vec3d v = out.way * out.speed + source.motion;
    for (Bytes& f : kept)
      if (!f.size()) f.resize(s.grid.size());
    parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
      const int b = int(i) + first_block;
      const Vec3d middle = (to<double>(s.grid.key(b).at * 8) + Vec3d{4, 4, 4}) * h;
      if (std::abs(dot(middle - mouth.middle, out.way)) > 8 * h) return;
      for (int a = 0; a < 3; ++a)
        for (int c = 0; c < block_cells; ++c)
          if (is_in_mouth(mouth, out, face_middle(s.grid, b, c, a, h), beside * h))
            kept[a].block(b)[c] = 1, velocity[a]->block(b)[c] = float(v[a]);
    });
  }
}

}  // namespace

int LiquidSolver::apply_viscosity(LiquidState& s, const LiquidWorld& world, double dt) {
  constexpr double least = 0.02;  // of a cell that momentum spreads in a step; less is not worth it
  const double h = world.cell_size;
  double thickest = 0, density = 0;
  bool thins = false;
  for (const Matter& m : world.liquids) {
    if (m.density <= 0) continue;  // the number of something else
    thickest = std::max(thickest, (m.viscosity + m.yield) / m.density),
    density = std::max(density, m.density);
    thins = thins || m.yield > 0 || m.exponent != 1;
  }
  if (thickest * dt < least * h * h) return 0;
  const BlockGrid& g = s.grid;
  const Floats rate = thins ? shear_rate(s, h) : Floats();
  Floats viscosity(g.size());
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c) {
      if (s.surface.block(b)[c] >= 0) continue;
      const float pace = thins ? rate.block(b)[c] : 0;
      if (world.liquids.size() == 1) {
        viscosity.block(b)[c] = thickness_at(world.liquids[0], pace);
        continue;
      }
      // Mixtures are as thick as the mean of logarithms (Arrhenius 1887).
      double sum = 0;
      size_t count = 0;
      const auto add = [&](uint32_t first, uint32_t last) {
        for (uint32_t n = first; n < last; ++n, ++count)
          sum += std::log(double(thickness_at(world.liquids[s.particles.liquid[n]], pace)) + 1e-12);
      };
      // Where there are no particles, as those of the block; where that has none either, as those around it,
      // which have to be near: the surface was found from them.
      add(cells_.begin(b, c), cells_.end(b, c));
      if (!count) add(cells_.begin(b, 0), cells_.end(b, block_cells - 1));
      for (int n = 0; n < 27 && !count; ++n)
        if (const int nb = g.around(b)[n]; nb >= first_block)
          add(cells_.begin(nb, 0), cells_.end(nb, block_cells - 1));
      viscosity.block(b)[c] = count ? float(std::exp(sum / double(count))) : 0;
    }
  });
  hold_in_solids(s, world, dt);
  Bytes kept[3];
  hold_at_mouths(s, world, kept);
  return Viscosity(s, viscosity, density, world, kept, dt).solve(s);
}

}  // namespace pour
