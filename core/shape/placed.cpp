#include "shape/placed.h"

#include "base/error.h"
#include "base/text.h"

namespace pour {

namespace {

template <class F>
auto naming(const Piece& piece, const F& make) {
  try {
    return make();
  } catch (const Fault& f) {
    throw Fault(f.blame, filled("Piece “{name}”: {where}", {{"name", piece.name}, {"where", f.where}}),
                f.problem, f.mend);
  }
}

std::shared_ptr<const Mesh> placed(const std::shared_ptr<const Mesh>& mesh, const Pose& pose) {
  if (!mesh) return nullptr;
  auto out = std::make_shared<Mesh>(*mesh);
  out->place(pose);
  return out;
}

}  // namespace

std::shared_ptr<const std::vector<Body>> bodies_of(const Piece& piece, const StopAsked& stop) {
  return naming(piece, [&] { return bodies_of(piece.shape, stop); });
}

std::vector<Body::Seen> seen_of(const Piece& piece) {
  std::vector<Body::Seen> out;
  if (const auto* model = std::get_if<Model>(&piece.shape))
    for (ModelPart& p : naming(piece, [&] { return model->parts(); }))
      out.push_back(Model::seen_of(std::move(p)));
  return out;
}

std::vector<Body> placed_bodies(const Shot& shot, const Piece& piece, const StopAsked& stop) {
  const Pose pose = pose_of(shot, piece);
  std::vector<Body> out = *bodies_of(piece, stop);
  for (Body& body : out) {
    body.stroke *= pose.scale;
    for (auto& seeds : body.seeds)
      for (Body::Seed& s : seeds) s.place = pose * s.place, s.room *= pose.scale;
    body.mesh.place(pose);
    body.sheet = placed(body.sheet, pose), body.pierced = placed(body.pierced, pose);
    for (Body::Opening& o : body.openings) {
      for (Vec3d& end : o.end) end = pose * end;
      o.radius *= pose.scale;
    }
  }
  return out;
}

Mesh piece_mesh(const Shot& shot, const Piece& piece) {
  Mesh all;
  for (const Body& b : placed_bodies(shot, piece)) all.append(b.mesh);
  return all;
}

}  // namespace pour
