#include "shape/piece_shape.h"

#include "base/error.h"
#include "shape/spots.h"

namespace pour {

std::vector<ShapePart> piece_parts(const Piece& piece, const StopAsked& stop) {
  const Rotation turn = Rotation::euler(piece.turn);
  std::vector<ShapePart> out;
  if (piece.kind == PieceKind::lettering) {
    const LetteringStyle style{piece.font, piece.letter_size, piece.depth, piece.bevel, piece.spacing};
    Outline outline;
    try {
      outline = outline_text(piece.text, style);
    } catch (const Fault& f) {
      throw Fault(f.blame, "Piece “" + piece.name + "”: " + f.where, f.problem, f.mend);
    }
    std::vector<Mesh> meshes = extrude(outline, piece.depth, piece.bevel);
    for (size_t i = 0; i < meshes.size(); ++i) {
      give_up_if(stop);
      ShapePart part;
      const Spots spots = find_spots(outline.parts[i], piece.letter_size);
      part.stroke = std::min(spots.stroke, piece.depth);
      const auto seed = [&](SeedPlace place, const Spot& spot) {
        part.seeds[int(place)].push_back(
            {turn * spot.center + piece.position, std::min(spot.radius, piece.depth / 2)});
      };
      for (const Spot& s : spots.low) seed(SeedPlace::low, s);
      for (const Spot& s : spots.centre) seed(SeedPlace::centre, s);
      seed(SeedPlace::one_side, spots.one_side);
      part.mesh = std::move(meshes[i]);
      part.mesh.place(turn, piece.position);
      out.push_back(std::move(part));
    }
    return out;
  }
  ShapePart part;
  const bool ball = piece.kind == PieceKind::ball;
  part.mesh = ball ? ball_mesh(piece.radius) : box_mesh(piece.size);
  const Vec3d half = ball ? Vec3d{piece.radius, piece.radius, piece.radius} : piece.size * 0.5;
  const double room = std::min({half.x, half.y, half.z});
  part.stroke = 2 * room;
  // A seed keeps half of the smallest room to itself, so that it can sit low or to one side.
  const double seed = room / 2;
  const Vec3d places[3] = {
      {0, seed - half.y * (ball ? 0.9 : 1), 0}, {0, 0, 0}, {seed - half.x * (ball ? 0.9 : 1), 0, 0}};
  for (int i = 0; i < 3; ++i)
    part.seeds[i] = {{turn * places[i] + piece.position, i == int(SeedPlace::centre) ? room : seed}};
  part.mesh.place(turn, piece.position);
  out.push_back(std::move(part));
  return out;
}

Mesh piece_mesh(const Piece& piece) {
  Mesh all;
  for (const ShapePart& p : piece_parts(piece)) all.append(p.mesh);
  return all;
}

}  // namespace pour
