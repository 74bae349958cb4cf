// A model from a file: a product, a vessel.
#pragma once
#include "base/error.h"
#include "base/text.h"
#include "shape/body.h"
#include "shape/model_parts.h"
#include "shape/near_surface.h"
#include "shape/shell.h"
#include "shot/setting.h"

namespace pour {

struct Model {
  ModelFile file;
  double height = 0.16;
  std::string part;  // of the file; empty: all parts
  enum class Open { wall, filled } open = Open::wall;
  double wall = 0.002, wrap = 0;
  bool operator==(const Model&) const = default;

  static constexpr Option kind{"model", "Model"};
  static constexpr Option opens[] = {{"wall", "become a wall"}, {"filled", "are filled"}};
  static constexpr const char* sentence = "Shows {file} , {height} high.";

  static Table<Model> settings() {
    return TableOf<Model>()
        .touching(Touches::shape)
        .add(&Model::file, "file", "Model file",
             "Model file: OBJ, PLY, STL, glTF, GLB or FBX. The shot keeps a copy.")
        .add(&Model::height, "height", "Height", Unit::length, {1e-3, 100, 0.02, 0.5},
             "Height of the whole model, from its lowest to its highest point.")
        .add(&Model::part, "part", "Part",
             "Part of the model to use, by name; empty is all of it. “name/2” is its second connected "
             "surface, “name:2” its second side, “name^1” its first hollow.")
        .more()
        .add(&Model::wrap, "wrap", "Wrap", Unit::length, {0, 1, 0, 0.02},
             "Replaces the model for the fluid by a simple closed hull at this distance around it.")
        .zero("none")
        .add(&Model::open, opens, "open", "Open parts",
             "Turns open surfaces into walls, or fills them as if their holes were closed. Flat surfaces "
             "always become walls.")
        .where([](const Model& m) { return m.wrap == 0; })
        .more()
        .add(&Model::wall, "wall", "Wall", Unit::length, {1e-4, 1, 5e-4, 0.01},
             "Wall thickness given to open surfaces.")
        .where([](const Model& m) { return m.wrap == 0 && m.open == Open::wall; })
        .more()
        .done();
  }

  /// The whole file, centred, at this height.
  std::vector<ModelPart> all_parts() const {
    const std::string where = filled("Model “{name}”", {{"name", file.name}});
    if (!file.bytes && !file.name.empty())
      throw machine_fault(where, "is named, but its file is missing.",
                          "Choose it anew. If it comes with the program, install Easy Pour again.");
    if (!file.bytes) throw shot_fault(where, "has no file yet.", "Choose a model.");
    std::vector<ModelPart> all = unpack_model(file.content(), where);
    Box box;
    for (const ModelPart& p : all) box.add(p.mesh.bounds());
    if (!(box.size().y > 0))
      throw shot_fault(where, "is flat: it has no height.", "Turn it upright in its file.");
    const double scale = height / box.size().y;
    for (ModelPart& p : all)
      for (Vec3f& v : p.mesh.points) v = to<float>((to<double>(v) - box.center()) * scale);
    return all;
  }

  /// The parts that form this piece.
  std::vector<ModelPart> parts() const {
    const std::vector<ModelPart> all = all_parts();
    if (part.empty()) return all;
    std::vector<ModelPart> wanted = named_part(all, part);
    if (!wanted.empty()) return wanted;
    std::string known;
    for (const ModelPart& p : all) known += (known.empty() ? "“" : ", “") + p.name + "”";
    throw shot_fault(filled("Model “{name}”", {{"name", file.name}}),
                     filled("has no part “{part}”.", {{"part", part}}),
                     filled("It has {known}.", {{"known", known}}));
  }

  /// The volume enclosed by a part with its holes closed; empty if it encloses nothing in either orientation.
  static Mesh filled_part(const ModelPart& p, const StopAsked& stop) {
    Mesh solid = filled(p.mesh, stop);
    if (!solid.triangles.empty()) return solid;
    Mesh turned = p.mesh;
    for (auto& t : turned.triangles) std::swap(t[1], t[2]);
    return filled(turned, stop);
  }

  static Body::Seen seen_of(ModelPart part) {
    Body::Seen seen;
    seen.mesh = std::move(part.mesh), seen.colors = std::move(part.colors), seen.uv = std::move(part.uv);
    if (!part.texture || part.texture->bytes.empty()) return seen;
    seen.textures = {{part.texture, &part.texture->bytes}};
    seen.texture_of.assign(seen.mesh.triangles.size(), 1);
    return seen;
  }

  std::vector<Body> bodies(const StopAsked& stop) const {
    std::vector<Body> out;
    Mesh whole;
    for (ModelPart& p : parts()) {
      give_up_if(stop);
      const bool closed = wrap > 0 || is_closed(p.mesh);
      Mesh solid = wrap > 0 ? Mesh() : !closed && open == Open::filled ? filled_part(p, stop) : p.mesh;
      const bool walled = !closed && (open == Open::wall || solid.triangles.empty());
      if (walled) solid = wall_along(p.mesh, wall);
      if (closed && solid.volume() < 0)  // inside out
        for (auto& t : solid.triangles) std::swap(t[1], t[2]);
      const Vec3d half = p.mesh.bounds().size() * 0.5, middle = p.mesh.bounds().center();
      whole.append(p.mesh);
      const double thin = NearSurface(solid).thinnest();
      Body body = plain_body(std::move(solid), half, false);
      body.stroke = std::min(body.stroke, thin);
      if (walled) body.sheet = std::make_shared<const Mesh>(p.mesh);
      for (auto& seeds : body.seeds)
        for (Body::Seed& s : seeds) s.place += middle;
      body.seen = std::make_shared<const Body::Seen>(seen_of(std::move(p)));
      out.push_back(std::move(body));
    }
    if (wrap > 0) {  // one hull around all; the visible surface is kept with it
      Body body = plain_body(hull_around(whole, wrap), whole.bounds().size() * 0.5, false);
      Body::Seen seen;
      for (const Body& b : out) seen.append(*b.seen);
      body.seen = std::make_shared<const Body::Seen>(std::move(seen));
      out.clear(), out.push_back(std::move(body));
    }
    return out;
  }
};

}  // namespace pour
