// Pressure: makes the velocity free of divergence.
#include <algorithm>
#include <cmath>

#include "base/parallel.h"
#include "gas/gas.h"
#include "solve/row_weights.h"

namespace pour {

namespace {

constexpr int cell_stride[3] = {1, 8, 64}, minus[3] = {x_minus, y_minus, z_minus},
              plus[3] = {x_plus, y_plus, z_plus};

bool is_all(const uint8_t* p, uint8_t value) {
  return std::all_of(p, p + block_cells, [&](uint8_t v) { return v == value; });
}

/// A cell is an unknown unless it is solid, outside, or in the last layer before gas that is not computed:
/// that layer stands for the open air and keeps the velocity of the faces in front of it.
bool is_unknown(const GasState& s, int b, int c) {
  const uint8_t v = s.geometry.volume.block(b)[c];
  if (b < first_block || v == 0 || v == outside_volume) return false;
  const int* around = s.grid.around(b);
  return !((c & 7) == 7 && around[x_plus] == outside_open) &&
         !((c >> 3 & 7) == 7 && around[y_plus] == outside_open) &&
         !(c >> 6 == 7 && around[z_plus] == outside_open);
}

/// Weights and anchors of a block that is open, and so are the six beside it.
void weigh_open_block(const GasState& s, PoissonWeights& weights, int b) {
  const int* around = s.grid.around(b);
  float* anchor = weights.anchor.block(b);
  Bytes* weight[3] = {&weights.x, &weights.y, &weights.z};
  for (int a = 0; a < 3; ++a) {
    std::fill_n(weight[a]->block(b), block_cells, uint8_t(255));
    // Neighbours may still have a rim of their own, but never on the side that is towards this block.
    const int m = around[minus[a]];
    for (int c = 0; c < block_cells; ++c) {
      const int at = a == 0 ? c & 7 : a == 1 ? c >> 3 & 7 : c >> 6;
      if (at == 0 && !is_unknown(s, m, c + 7 * cell_stride[a])) weight[a]->block(b)[c] = 0, anchor[c] += 255;
      if (at == 7 && !is_unknown(s, around[plus[a]], c - 7 * cell_stride[a])) anchor[c] += 255;
    }
  }
}

void weigh_block(const GasState& s, PoissonWeights& weights, int b) {
  const int* around = s.grid.around(b);
  float* anchor = weights.anchor.block(b);
  Bytes* weight[3] = {&weights.x, &weights.y, &weights.z};
  const Bytes* face[3] = {&s.geometry.fx, &s.geometry.fy, &s.geometry.fz};
  for (int c = 0; c < block_cells; ++c) {
    const bool here = is_unknown(s, b, c);
    for (int a = 0; a < 3; ++a) {
      const int at = a == 0 ? c & 7 : a == 1 ? c >> 3 & 7 : c >> 6, stride = cell_stride[a];
      const int mb = at > 0 ? b : around[minus[a]], mc = at > 0 ? c - stride : c + 7 * stride;
      const int pb = at < 7 ? b : around[plus[a]], pc = at < 7 ? c + stride : c - 7 * stride;
      const uint8_t f = face[a]->block(b)[c], next = face[a]->block(pb)[pc];
      const bool below = is_unknown(s, mb, mc);
      weight[a]->block(b)[c] = here && below ? f : 0;
      if (!here) continue;
      if (!below) anchor[c] += float(f);
      if (pb >= first_block && !is_unknown(s, pb, pc)) anchor[c] += float(next);
    }
  }
}

/// Of each pocket, in cells.
std::vector<double> pocket_volumes(const GasState& s, const Pockets& pockets) {
  std::vector<double> whole(size_t(s.grid.size()), 0);
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const uint8_t* v = s.geometry.volume.block(int(i) + first_block);
    int sum = 0;
    for (int c = 0; c < block_cells; ++c) sum += v[c];
    whole[i + first_block] = sum / double(full_volume);
  });
  std::vector<double> out(pockets.pockets.size(), 0);
  for (int b = first_block; b < s.grid.size(); ++b) {
    if (const int k = pockets.whole(b); k >= -1) {
      if (k >= 0) out[size_t(k)] += whole[size_t(b)];
      continue;
    }
    for (int c = 0; c < block_cells; ++c)
      if (const int k = pockets.at(b, c); k >= 0)
        out[size_t(k)] += s.geometry.volume.block(b)[c] / double(full_volume);
  }
  return out;
}

}  // namespace

void GasSolver::make_system(const GasState& s) {
  if (system_id_ == s.geometry_id && s.geometry_id && weights_.x.size() == s.grid.size()) return;
  const BlockGrid& g = s.grid;
  const CellGeometry& geo = s.geometry;
  // Where solids moved through the same blocks, only those that they changed and the ones beside them.
  std::vector<uint8_t> anew(size_t(g.size()), 0);
  if (system_id_ && system_id_ == moved_from_ && weights_.x.size() == g.size()) {
    for (const int b : laid_open_) {
      anew[size_t(b)] = 1;
      for (int a = 0; a < 3; ++a)
        anew[size_t(g.around(b)[minus[a]])] = anew[size_t(g.around(b)[plus[a]])] = 1;
    }
  } else {
    weights_.resize(g.size());
    open_.assign(size_t(g.size()), 0);
    std::fill(anew.begin(), anew.end(), 1);
  }
  system_id_ = s.geometry_id;
  const auto each = [&](const auto& f) {
    parallel_for(size_t(g.blocks()), [&](size_t i) { f(int(i) + first_block); });
  };
  each([&](int b) {
    if (anew[size_t(b)])
      open_[size_t(b)] = is_all(geo.volume.block(b), full_volume) && is_all(geo.fx.block(b), 255) &&
                         is_all(geo.fy.block(b), 255) && is_all(geo.fz.block(b), 255);
  });
  surroundings_.assign(size_t(g.size()), Surroundings::solid);
  each([&](int b) {
    const int* around = g.around(b);
    bool gas = open_[size_t(b)], edge = gas, cross = gas;
    for (int n = 0; n < 27; ++n) {
      gas = gas && open_[size_t(around[n])];
      edge = edge && (open_[size_t(around[n])] || around[n] == outside_open);
    }
    surroundings_[size_t(b)] = gas ? Surroundings::gas : edge ? Surroundings::edge : Surroundings::solid;
    if (!anew[size_t(b)]) return;
    for (int a = 0; a < 3; ++a)
      for (const int n : {around[minus[a]], around[plus[a]]})
        cross = cross && n >= first_block && open_[size_t(n)];
    std::fill_n(weights_.anchor.block(b), block_cells, 0.f);
    cross ? weigh_open_block(s, weights_, b) : weigh_block(s, weights_, b);
  });
  // Newly opened cells have no valid values.
  for (const int b : laid_open_)
    for (int n = 0; n < 27; ++n) surroundings_[size_t(g.around(b)[n])] = Surroundings::solid;
  poisson_.set(g, weights_);
  pocket_volume_ = pocket_volumes(s, poisson_.pockets());
}

double GasSolver::absorb(const GasState& s, double h, Floats& target) {
  const Pockets& pockets = poisson_.pockets();
  std::vector<double> excess(pocket_volume_.size(), 0);
  bool any = false;
  for (int b = first_block; b < s.grid.size(); ++b) {
    const float* t = target.block(b);
    const int whole = pockets.whole(b);
    for (int c = 0; c < block_cells; ++c) {
      if (t[c] == 0) continue;
      const int k = whole >= -1 ? whole : pockets.at(b, c);
      if (k >= 0) excess[size_t(k)] += double(t[c]) * s.geometry.volume.block(b)[c] / full_volume, any = true;
    }
  }
  if (!any) return 0;
  double pressed = 0;
  for (size_t k = 0; k < excess.size(); ++k) {
    if (!pockets.pockets[k].anchored) pressed += std::abs(excess[k]);
    excess[k] = pockets.pockets[k].anchored ? 0 : excess[k] / pocket_volume_[k];
  }
  parallel_for(size_t(s.grid.blocks()), [&](size_t i) {
    const int b = int(i) + first_block, whole = pockets.whole(b);
    float* t = target.block(b);
    for (int c = 0; c < block_cells; ++c) {
      const int k = whole >= -1 ? whole : pockets.at(b, c);
      if (k >= 0)
        t[c] -= float(excess[size_t(k)]);
      else
        t[c] = 0;  // no unknown: nothing can be pushed out of here
    }
  });
  return pressed * h * h * h;
}

GasReport GasSolver::project(GasState& s, const GasWorld& world, double dt) {
  make_system(s);
  const BlockGrid& g = s.grid;
  const CellGeometry& geo = s.geometry;
  if (target_.size() != g.size()) target_.resize(g.size());
  GasReport report;
  Floats swept;
  if (!moved_.empty()) {
    swept = target_;
    sweep(s, world, dt, swept);
    report.squeezed = absorb(s, world.cell_size, swept);
  }
  const double pressed = absorb(s, world.cell_size, target_);
  report.squeezed = std::max(0.0, report.squeezed - pressed);
  const Floats& wanted = moved_.empty() ? target_ : swept;
  const float h = float(world.cell_size);
  const v8 per_volume = splat(h / full_volume), fraction = splat(1.f / 255);
  Floats b_field(g.size(), unset);
  // h · target minus the net outflow of each cell, m/s.
  const auto outflow = [&](int b, auto&& use) {
    const int* around = g.around(b);
    const Around<float> u(s.u, around, b), v(s.v, around, b), w(s.w, around, b);
    const Around<uint8_t> fx(geo.fx, around, b), fy(geo.fy, around, b), fz(geo.fz, around, b);
    const BlockWeights weights(weights_, around, b);
    for (int k = 0; k < 8; ++k) {
      const LatticePlane<float> up = u.plane(k), vp = v.plane(k), wp = w.plane(k);
      const LatticePlane<uint8_t> xp = fx.plane(k), yp = fy.plane(k), zp = fz.plane(k);
      const PlaneWeights weight = weights.plane(k);
#pragma GCC unroll 8
      for (int j = 0; j < 8; ++j) {
        const int row = Around<float>::row(j, k);
        const v8 out = (xp.right(j) * up.right(j) - xp.at(j) * up.at(j)) +
                       (yp.above(j) * vp.above(j) - yp.at(j) * vp.at(j)) +
                       (zp.before(j) * wp.before(j) - zp.at(j) * wp.at(j));
        const v8 rest =
            load(wanted.block(b) + row) * load(geo.volume.block(b) + row) * per_volume - out * fraction;
        use(row, weight.row(j).sum > splat(0) ? rest : splat(0));
      }
    }
  };
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    outflow(b, [&](int row, v8 rest) { store(b_field.block(b) + row, rest); });
  });
  const SolveReport solved = poisson_.solve(b_field, s.pressure, world.tolerance);
  b_field = {};
  parallel_for(size_t(g.blocks()), [&](size_t i) {
    const int b = int(i) + first_block;
    const int* around = g.around(b);
    const Around<float> p(s.pressure, around, b);
    for (int k = 0; k < 8; ++k)
      for (int j = 0; j < 8; ++j) {
        const int row = Around<float>::row(j, k);
        const LatticePlane<float> pp = p.plane(k);
        const v8 here = pp.at(j);
        const auto subtract = [&](Floats& velocity, const Bytes& face, v8 before) {
          float* at = velocity.block(b) + row;
          store(at, load(face.block(b) + row) > splat(0) ? load(at) - (here - before) : splat(0));
        };
        subtract(s.u, geo.fx, pp.left(j));
        subtract(s.v, geo.fy, pp.below(j));
        subtract(s.w, geo.fz, pp.behind(j));
      }
  });
  if (!moved_.empty()) carry_solids_along(s, world, dt);
  std::vector<float> most(size_t(g.blocks()), 0);
  parallel_for(most.size(), [&](size_t i) {
    outflow(int(i) + first_block, [&](int, v8 rest) {
      for (int n = 0; n < 8; ++n) most[i] = std::max(most[i], std::abs(rest[n]));
    });
  });
  report.solver_iterations = solved.iterations;
  report.solver_residual = solved.relative_residual;
  for (const float m : most) report.max_divergence = std::max(report.max_divergence, double(m / h));
  return report;
}

}  // namespace pour
