// Connected unknowns: labelled inside each block first, then joined across block borders.
#include <algorithm>
#include <array>
#include <numeric>

#include "base/parallel.h"
#include "solve/poisson.h"

namespace pour {
namespace {

int find_root(std::vector<int>& parent, int i) {
  while (parent[size_t(i)] != i) i = parent[size_t(i)] = parent[size_t(parent[size_t(i)])];
  return i;
}

struct Local {
  std::array<uint16_t, block_cells> label{};  // 0: no unknown
  int count = 0;
  bool full = true;  // every cell is an unknown
  struct Part {
    int cells = 0;
    bool anchored = false;
  };
  std::vector<Part> parts;  // by label - 1
};

Local label_block(const BlockGrid& g, const PoissonWeights& w, int b) {
  Local out;
  const auto all_open = [&](const Bytes& f) {
    return std::none_of(f.block(b), f.block(b) + block_cells, [](uint8_t v) { return v == 0; });
  };
  if (all_open(w.x) && all_open(w.y) && all_open(w.z)) {
    const float* anchor = w.anchor.block(b);
    out.label.fill(1), out.count = 1;
    out.parts = {{block_cells, std::any_of(anchor, anchor + block_cells, [](float v) { return v > 0; })}};
    return out;
  }
  std::array<int16_t, block_cells> parent;
  const uint8_t *wx = w.x.block(b), *wy = w.y.block(b), *wz = w.z.block(b);
  const float* anchor = w.anchor.block(b);
  const int* around = g.around(b);
  const uint8_t *xp = w.x.block(around[x_plus]), *yp = w.y.block(around[y_plus]),
                *zp = w.z.block(around[z_plus]);
  const auto root = [&](int i) {
    while (parent[size_t(i)] != i) i = parent[size_t(i)];
    return i;
  };
  for (int c = 0; c < block_cells; ++c) {
    const int x = c & 7, y = c >> 3 & 7, z = c >> 6;
    const bool unknown = anchor[c] > 0 || wx[c] || wy[c] || wz[c] || (x < 7 ? wx[c + 1] : xp[c - 7]) ||
                         (y < 7 ? wy[c + 8] : yp[c - 56]) || (z < 7 ? wz[c + 64] : zp[c - 448]);
    parent[size_t(c)] = unknown ? int16_t(c) : int16_t(-1);
  }
  const auto join = [&](int a, int b2) {
    const int ra = root(a), rb = root(b2);
    if (ra != rb) parent[size_t(std::max(ra, rb))] = int16_t(std::min(ra, rb));
  };
  for (int c = 0; c < block_cells; ++c) {
    if ((c & 7) > 0 && wx[c]) join(c, c - 1);
    if ((c >> 3 & 7) > 0 && wy[c]) join(c, c - 8);
    if (c >= 64 && wz[c]) join(c, c - 64);
  }
  for (int c = 0; c < block_cells; ++c) {
    if (parent[size_t(c)] < 0) {
      out.full = false;
      continue;
    }
    const int r = root(c);
    if (r == c) out.parts.emplace_back(), ++out.count;
    const uint16_t label = out.label[size_t(c)] = r == c ? uint16_t(out.count) : out.label[size_t(r)];
    Local::Part& part = out.parts[label - 1u];
    ++part.cells, part.anchored = part.anchored || anchor[c] > 0;
  }
  return out;
}

}  // namespace

Pockets find_pockets(const BlockGrid& g, const PoissonWeights& w) {
  std::vector<Local> local(size_t(g.blocks()));
  parallel_for(local.size(), [&](size_t i) { local[i] = label_block(g, w, int(i) + first_block); });
  std::vector<int> first(local.size() + 1, 0);
  for (size_t i = 0; i < local.size(); ++i) first[i + 1] = first[i] + local[i].count;
  std::vector<int> parent(size_t(first.back()));
  std::iota(parent.begin(), parent.end(), 0);
  const auto id = [&](int b, int c) {
    return first[size_t(b - first_block)] + local[size_t(b - first_block)].label[size_t(c)] - 1;
  };
  const auto join = [&](int a, int b) {
    const int ra = find_root(parent, a), rb = find_root(parent, b);
    if (ra != rb) parent[size_t(std::max(ra, rb))] = std::min(ra, rb);
  };
  static constexpr int minus[3] = {x_minus, y_minus, z_minus}, across[3] = {7, 56, 448};
  const Bytes* weight[3] = {&w.x, &w.y, &w.z};
  const auto is_one = [&](int b) {
    const Local& l = local[size_t(b - first_block)];
    return l.full && l.count == 1;
  };
  for (int b = first_block; b < g.size(); ++b)
    for (int a = 0; a < 3; ++a) {
      const int before = g.around(b)[minus[a]];
      if (before < first_block) continue;
      const bool once = is_one(b) && is_one(before);
      for (int n = 0; n < 64; ++n) {
        const int c = a == 0 ? n * 8 : a == 1 ? (n >> 3) * 64 + (n & 7) : n;
        if (!weight[a]->block(b)[c]) continue;
        join(id(b, c), id(before, c + across[a]));
        if (once) break;
      }
    }
  Pockets out;
  std::vector<int> pocket(parent.size(), -1);
  for (size_t i = 0; i < parent.size(); ++i) {
    const size_t r = size_t(find_root(parent, int(i)));
    if (pocket[r] < 0) {
      pocket[r] = int(out.pockets.size());
      out.pockets.emplace_back();
    }
    pocket[i] = pocket[r];
  }
  out.blocks_.resize(size_t(g.size()));
  for (int b = first_block; b < g.size(); ++b) {
    const Local& l = local[size_t(b - first_block)];
    Pockets::Block& to = out.blocks_[size_t(b)];
    for (int n = 0; n < l.count; ++n) {
      auto& p = out.pockets[size_t(pocket[size_t(first[size_t(b - first_block)] + n)])];
      p.cells += l.parts[size_t(n)].cells;
      p.anchored = p.anchored || l.parts[size_t(n)].anchored;
    }
    if (l.count == 0) continue;
    if (l.count == 1 && l.full) {
      to.only = pocket[size_t(first[size_t(b - first_block)])];
      continue;
    }
    to.only = -2;
    to.local.assign(l.label.begin(), l.label.end());
    for (int n = 0; n < l.count; ++n) to.ids.push_back(pocket[size_t(first[size_t(b - first_block)] + n)]);
  }
  return out;
}

}  // namespace pour
