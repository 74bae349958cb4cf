#include "picture/joined_walls.h"

#include <algorithm>
#include <cmath>

namespace pour {
namespace {

Pose rounded(Pose p) {
  const auto round = [](double v) { return std::round(v * 1e6) / 1e6; };
  for (int a = 0; a < 3; ++a) {
    p.position[a] = round(p.position[a]);
    for (int b = 0; b < 3; ++b) p.turn.row[a][b] = round(p.turn.row[a][b]);
  }
  p.scale = round(p.scale);
  return p;
}

}  // namespace

Surface surface_of(const JoinedWalls& walls, const Piece& piece) {
  Body::Seen all;
  const auto bodies = bodies_of(piece);
  for (size_t i = 0; i < bodies->size(); ++i) {
    std::vector<Mesh> meshes;
    for (const JoinedWalls::Other& o : walls.others[i]) {
      meshes.push_back((*bodies_of(o.shape))[o.body].mesh);
      meshes.back().place(o.pose);
    }
    std::vector<const Mesh*> others;
    for (const Mesh& m : meshes) others.push_back(&m);
    const Mesh& own = (*bodies)[i].shown();
    Body::Seen seen;
    seen.mesh = others.empty() ? own : outside_of(own, others);
    all.append(seen);
  }
  return Surface(std::move(all));
}

std::map<size_t, JoinedWalls> joined_walls(const Shot& shot) {
  std::map<size_t, JoinedWalls> out;
  if (std::none_of(shot.pieces.begin(), shot.pieces.end(), [](const Piece& p) { return p.holds && p.joins; }))
    return out;
  std::vector<std::vector<Body>> bodies(shot.pieces.size());
  for (size_t i = 0; i < shot.pieces.size(); ++i)
    if (shot.pieces[i].holds) bodies[i] = placed_bodies(shot, shot.pieces[i]);
  for (const Vessel& vessel : vessels_of(shot, bodies))
    for (const Vessel::Part& part : vessel.parts) {
      JoinedWalls& walls = out[part.piece];
      walls.shape = shot.pieces[part.piece].shape, walls.others.resize(bodies[part.piece].size());
      const Pose back = pose_of(shot, shot.pieces[part.piece]).inverse();
      for (const Vessel::Part& other : vessel.parts)
        if (!(other == part))
          walls.others[part.body].push_back({shot.pieces[other.piece].shape, other.body,
                                             rounded(back * pose_of(shot, shot.pieces[other.piece]))});
    }
  std::erase_if(out, [](const auto& of_piece) {
    return std::all_of(of_piece.second.others.begin(), of_piece.second.others.end(),
                       [](const auto& others) { return others.empty(); });
  });
  return out;
}

}  // namespace pour
