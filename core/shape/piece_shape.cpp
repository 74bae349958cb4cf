#include "shape/piece_shape.h"

#include "base/error.h"

namespace pour {

std::vector<ShapePart> piece_parts(const Piece& piece) {
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
      ShapePart part;
      part.stroke = std::min(stroke_width(outline.parts[i]), piece.depth);
      for (const SpotPlace place : {SpotPlace::low, SpotPlace::centre, SpotPlace::one_side}) {
        const Spot spot = find_spot(outline.parts[i], place);
        part.seed[int(place)] = turn * spot.center + piece.position;
        part.seed_room[int(place)] = std::min(spot.radius, piece.depth / 2);
      }
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
    part.seed[i] = turn * places[i] + piece.position, part.seed_room[i] = i == 1 ? room : seed;
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
