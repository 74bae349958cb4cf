// Which part of a target each particle goes to, such as a letter of a word.
#include <algorithm>
#include <map>
#include <numeric>

#include "liquid/liquid.h"

namespace pour {
namespace {

// A particle's mark: the number of the force that gathers it, counted from 1, and the part it goes to.
constexpr int nearest_part = 255;
uint16_t mark_of(int force, int part) { return uint16_t((force + 1) << 8 | part); }
int force_of(uint16_t mark) { return (mark >> 8) - 1; }

/// Particles and their places along the order of parts.
struct Taken {
  std::vector<uint32_t> which;
  std::vector<double> place;  // m
};

void share_in_order(Particles& p, const Taken& t, const Sharing& by) {
  std::vector<uint32_t> order(t.which.size());
  std::iota(order.begin(), order.end(), 0u);
  std::sort(order.begin(), order.end(), [&](uint32_t a, uint32_t b) {
    return t.place[a] != t.place[b] ? t.place[a] < t.place[b] : p.id[t.which[a]] < p.id[t.which[b]];
  });
  int part = 0;
  for (size_t k = 0; k < order.size(); ++k) {
    while (part + 1 < int(by.volumes.size()) && double(k) >= by.volumes[size_t(part)] * double(order.size()))
      ++part;
    p.goal[t.which[order[k]]] = mark_of(by.force, part);
  }
}

/// The connected body of each particle's cell, by particle; bodies counted from 0, in no order.
std::vector<int> bodies_of(const LiquidState& s, const ParticleCells& cells, size_t& count) {
  const BlockGrid& g = s.grid;
  const auto number = [](int b, int c) { return size_t(b - first_block) * block_cells + size_t(c); };
  std::vector<int> body(size_t(g.blocks()) * block_cells, -1);
  std::vector<std::pair<int, int>> open;
  int bodies = 0;
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c) {
      if (!cells.count(b, c) || body[number(b, c)] >= 0) continue;
      body[number(b, c)] = bodies, open = {{b, c}};
      while (!open.empty()) {
        const auto [block, cell] = open.back();
        open.pop_back();
        for (int n = 0; n < 27; ++n) {
          const int x = (cell & 7) + n % 3 - 1, y = (cell >> 3 & 7) + n / 3 % 3 - 1,
                    z = (cell >> 6) + n / 9 - 1;
          const int next = g.around(block)[((z >> 3) + 1) * 9 + ((y >> 3) + 1) * 3 + (x >> 3) + 1];
          const int there = ((z & 7) * 8 + (y & 7)) * 8 + (x & 7);
          if (next < first_block || !cells.count(next, there) || body[number(next, there)] >= 0) continue;
          body[number(next, there)] = bodies, open.push_back({next, there});
        }
      }
      ++bodies;
    }
  std::vector<int> out(s.particles.size(), -1);
  for (int b = first_block; b < g.size(); ++b)
    for (int c = 0; c < block_cells; ++c)
      for (uint32_t n = cells.begin(b, c); n < cells.end(b, c); ++n) out[n] = body[number(b, c)];
  count = size_t(bodies);
  return out;
}

void share_by_hand(LiquidState& s, const ParticleCells& cells, const Taken& t, const Sharing& by) {
  size_t count = 0;
  const std::vector<int> body = bodies_of(s, cells, count);
  std::vector<double> sum(count, 0), many(count, 0);
  for (size_t k = 0; k < t.which.size(); ++k)
    if (const int b = body[t.which[k]]; b >= 0) sum[size_t(b)] += t.place[k], many[size_t(b)] += 1;
  const double most = count ? *std::max_element(many.begin(), many.end()) : 0;
  // Drops that lie about are no bodies of their own: they go with the nearest one.
  constexpr double crumb = 0.01;
  std::vector<size_t> large;
  for (size_t b = 0; b < count; ++b)
    if (many[b] > crumb * most) large.push_back(b);
  const auto middle = [&](size_t b) { return sum[b] / std::max(many[b], 1.0); };
  std::sort(large.begin(), large.end(), [&](size_t a, size_t b) { return middle(a) < middle(b); });
  std::vector<int> part(count, nearest_part);
  for (size_t b = 0; b < count; ++b) {
    if (!(many[b] > 0) || by.bodies.empty()) continue;
    size_t near = 0;
    for (size_t k = 0; k < large.size(); ++k)
      if (std::abs(middle(large[k]) - middle(b)) < std::abs(middle(large[near]) - middle(b))) near = k;
    part[b] = std::clamp(by.bodies[std::min(near, by.bodies.size() - 1)], 0, int(by.volumes.size()) - 1);
  }
  for (const uint32_t n : t.which)
    s.particles.goal[n] = mark_of(by.force, body[n] >= 0 ? part[size_t(body[n])] : nearest_part);
}

/// Small bodies go where most of their particles go. Drops whose particles are drawn different ways would
/// hover between them.
void keep_drops_together(LiquidState& s, const ParticleCells& cells) {
  constexpr size_t small = 1024;  // particles
  Particles& p = s.particles;
  size_t count = 0;
  const std::vector<int> body = bodies_of(s, cells, count);
  std::vector<size_t> many(count, 0);
  for (const int b : body)
    if (b >= 0) ++many[size_t(b)];
  std::map<std::pair<int, uint16_t>, size_t> votes;
  for (size_t n = 0; n < p.size(); ++n)
    if (body[n] >= 0 && p.goal[n] && many[size_t(body[n])] < small) ++votes[{body[n], p.goal[n]}];
  std::map<int, std::pair<size_t, uint16_t>> chosen;
  for (const auto& [of, n] : votes)
    if (auto& best = chosen[of.first]; n > best.first) best = {n, of.second};
  for (size_t n = 0; n < p.size(); ++n)
    if (const auto best = chosen.find(body[n]); p.goal[n] && best != chosen.end())
      p.goal[n] = best->second.second;
}

}  // namespace

void LiquidSolver::share_out(LiquidState& s, const LiquidWorld& world) const {
  Particles& p = s.particles;
  std::vector<uint8_t> acting(256, 0);
  for (const Acting& f : world.fields)
    if (f.sharing && f.share > 0) acting[size_t(f.sharing->force)] = 1;
  const auto is_free = [&](size_t n) { return !p.goal[n] || !acting[size_t(force_of(p.goal[n]))]; };
  bool any = false;
  for (const Acting& f : world.fields) {
    if (!f.sharing || f.share <= 0 || (world.room && !f.inside)) continue;
    any = true;
    const Sharing& by = *f.sharing;
    Taken taken;
    bool has_begun = false;
    for (size_t n = 0; n < p.size(); ++n) {
      has_begun = has_begun || (p.goal[n] && force_of(p.goal[n]) == by.force);
      if (!f.acts_on(p.liquid[n]) || !is_free(n)) continue;
      Vec3d at;
      for (size_t a = 0; a < 3; ++a) at[int(a)] = double(p.place[a][n]) * world.cell_size;
      if (world.room && world.room->moves) at = world.room->from * at;
      taken.which.push_back(uint32_t(n)), taken.place.push_back(dot(at, by.along));
    }
    // What is poured later goes to the nearest part.
    if (has_begun)
      for (const uint32_t n : taken.which) p.goal[n] = mark_of(by.force, nearest_part);
    else if (by.by_hand)
      share_by_hand(s, cells_, taken, by);
    else
      share_in_order(p, taken, by);
  }
  if (any) keep_drops_together(s, cells_);
}

v8i part_of(const Sharing& by, const uint16_t (&goals)[8]) {
  v8i out;
  for (int i = 0; i < 8; ++i) {
    const int part = goals[i] & 255;
    out[i] = goals[i] && force_of(goals[i]) == by.force && part != nearest_part ? part : -1;
  }
  return out;
}

}  // namespace pour
