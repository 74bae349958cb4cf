// A mark: a drawing from an SVG file, with depth.
#pragma once
#include "base/error.h"
#include "base/text.h"
#include "shape/body.h"
#include "shape/spots.h"
#include "shape/svg.h"
#include "shot/setting.h"

namespace pour {

struct Mark {
  Drawing drawing = shipped_drawing("oddlark-bird.svg");
  double height = 0.16, depth = 0.03, bevel = 0.004;
  bool operator==(const Mark&) const = default;

  static constexpr Option kind{"mark", "Mark"};
  static constexpr const char* sentence = "Shows {drawing} , {height} high.";

  static Table<Mark> settings() {
    return TableOf<Mark>()
        .touching(Touches::shape)
        .add(&Mark::drawing, "drawing", "Drawing", "SVG file of the mark. The shot keeps a copy.")
        .add(&Mark::height, "height", "Height", Unit::length, {1e-3, 100, 0.02, 0.5},
             "Height of the drawing from its lowest to its highest point.")
        .add(&Mark::depth, "depth", "Depth", Unit::length, {1e-4, 100, 0.005, 0.2},
             "Depth of the mark from front to back.")
        .add(&Mark::bevel, "bevel", "Bevel", Unit::length, {0, 10, 0, 0.02}, "Radius of the rounded edges.")
        .done();
  }

  std::vector<Body> bodies(const StopAsked& stop) const {
    const std::string where = filled("Drawing “{name}”", {{"name", drawing.name}});
    const SvgDrawing read = read_svg(drawing.content(), where);
    const Outline outline = outline_of(read, height, where);
    const auto colors = std::make_shared<const ColorMap>(colors_of(read, height));
    std::vector<Mesh> meshes = extrude(outline, depth, bevel);
    std::vector<Body> out;
    for (size_t i = 0; i < meshes.size(); ++i) {
      give_up_if(stop);
      Body body;
      const Spots spots = find_spots(outline.parts[i], height);
      body.stroke = std::min(spots.stroke, depth);
      add_seeds(body, spots, depth);
      body.mesh = std::move(meshes[i]);
      body.colors = colors;
      out.push_back(std::move(body));
    }
    return out;
  }
};

}  // namespace pour
