// The pressure under the surface, and the velocity above it.
#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "liquid/liquid.h"
#include "solve/cells.h"

namespace pour {
namespace {

constexpr float least_part = 0.05f;  // of a cell between liquid and surface: less only makes the system stiff
constexpr int carried_on = 4;        // cells into the air

}  // namespace

LiquidReport LiquidSolver::project(LiquidState& s, const LiquidWorld& world, double) {
  const BlockGrid& g = s.grid;
  const CellGeometry& geo = s.geometry;
  if (s.pressure.size() != g.size()) s.pressure.resize(g.size());
  weights_.resize(g.size());
  const Bytes* face[3] = {&geo.fx, &geo.fy, &geo.fz};
  Bytes* weight[3] = {&weights_.x, &weights_.y, &weights_.z};
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  const auto is_liquid = [&](int b, int c) {
    const uint8_t v = b < first_block ? uint8_t(0) : geo.volume.block(b)[c];
    return v != 0 && v != outside_volume && s.surface.block(b)[c] < 0;
  };
  // Of a face between liquid and air, how much of the way lies in the liquid.
  const auto part_of = [&](int b, int c, int other, int oc) {
    const float in = s.surface.block(b)[c];
    const float out = other < first_block ? 0.5f : std::max(s.surface.block(other)[oc], 0.f);
    return std::clamp(in / (in - out), least_part, 1.f);
  };
  Floats rhs(g.size());
  const bool moving = carried_[0].size() == g.size();
  const auto outflow = [&](int b, int c) {
    const int* around = g.around(b);
    float out = 0;
    for (int a = 0; a < 3; ++a) {
      const size_t next = after(around, b, c, a), here = size_t(b) * block_cells + size_t(c);
      out += face[a]->data()[next] * velocity[a]->data()[next] -
             face[a]->data()[here] * velocity[a]->data()[here];
      if (moving)  // what the solid part of each face carries through it
        out += (255 - face[a]->data()[next]) * carried_[a].data()[next] -
               (255 - face[a]->data()[here]) * carried_[a].data()[here];
    }
    return out / 255;
  };
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int c = 0; c < block_cells; ++c) {
      const bool here = is_liquid(b, c);
      if (!here) s.pressure.block(b)[c] = 0;
      for (int a = 0; a < 3; ++a) {
        const size_t m = before(around, b, c, a), p = after(around, b, c, a);
        const int mb = int(m / block_cells), mc = int(m % block_cells), pb = int(p / block_cells),
                  pc = int(p % block_cells);
        const uint8_t low = face[a]->block(b)[c], high = face[a]->data()[p];
        const bool below = is_liquid(mb, mc), above = is_liquid(pb, pc);
        weight[a]->block(b)[c] = here && below ? low : 0;
        if (!here) continue;
        if (!below && low) weights_.anchor.block(b)[c] += float(low) / part_of(b, c, mb, mc);
        if (!above && high) weights_.anchor.block(b)[c] += float(high) / part_of(b, c, pb, pc);
      }
      if (here) rhs.block(b)[c] = -outflow(b, c);
    }
  });
  poisson_.set(g, weights_);
  // A closed space that is full has nowhere to go: what presses on it is spread over all of it.
  const Pockets& pockets = poisson_.pockets();
  std::vector<double> excess(pockets.pockets.size(), 0);
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c)
      if (const int k = pockets.at(b, c); k >= 0) excess[size_t(k)] += double(rhs.block(b)[c]);
  for (size_t k = 0; k < excess.size(); ++k)
    excess[k] = pockets.pockets[k].anchored ? 0 : excess[k] / pockets.pockets[k].cells;
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      const int k = pockets.at(b, c);
      rhs.block(b)[c] = k < 0 ? 0 : rhs.block(b)[c] - float(excess[size_t(k)]);
    }
  LiquidReport report;
  const SolveReport solved = poisson_.solve(rhs, s.pressure, 1e-5);
  report.solver_iterations = solved.iterations, report.solver_residual = solved.relative_residual;
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    for (int a = 0; a < 3; ++a)
      for (int c = 0; c < block_cells; ++c) {
        const size_t m = before(around, b, c, a);
        const int mb = int(m / block_cells), mc = int(m % block_cells);
        const bool here = is_liquid(b, c), below = is_liquid(mb, mc);
        float& v = velocity[a]->block(b)[c];
        if (!face[a]->block(b)[c])
          v = moving ? carried_[a].block(b)[c] : 0;
        else if (here && below)
          v -= s.pressure.block(b)[c] - s.pressure.block(mb)[mc];
        else if (here)
          v -= s.pressure.block(b)[c] / part_of(b, c, mb, mc);
        else if (below)
          v += s.pressure.block(mb)[mc] / part_of(mb, mc, b, c);
        // Faces that no liquid touches are carried on from those that it does.
        known_[a].block(b)[c] = here || below;
      }
  });
  std::vector<float> most(size_t(g.blocks()), 0);
  parallel_for(most.size(), [&](size_t i) {
    const int b = int(i) + first_block;
    for (int c = 0; c < block_cells; ++c)
      if (const int k = pockets.at(b, c); k >= 0)
        most[i] = std::max(most[i], std::abs(outflow(b, c) + float(excess[size_t(k)])));
  });
  for (const float m : most)
    report.max_divergence = std::max(report.max_divergence, double(m) / world.cell_size);
  return report;
}

void LiquidSolver::extrapolate(LiquidState& s) const {
  const BlockGrid& g = s.grid;
  Floats* velocity[3] = {&s.u, &s.v, &s.w};
  for (int k = 0; k < 3; ++k) {
    Bytes known = known_[k];
    for (int pass = 0; pass < carried_on; ++pass) {
      Bytes next = known;
      Floats moved = *velocity[k];
      parallel_for(size_t(g.blocks()), [&](size_t i) {
        const int b = int(i) + first_block;
        const int* around = g.around(b);
        for (int c = 0; c < block_cells; ++c) {
          if (known.block(b)[c]) continue;
          float sum = 0;
          int count = 0;
          for (int a = 0; a < 3; ++a)
            for (const size_t n : {before(around, b, c, a), after(around, b, c, a)})
              if (known.data()[n]) sum += velocity[k]->data()[n], ++count;
          if (count) moved.block(b)[c] = sum / float(count), next.block(b)[c] = 1;
        }
      });
      *velocity[k] = std::move(moved), known = std::move(next);
    }
  }
}

}  // namespace pour
