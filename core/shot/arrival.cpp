#include "shot/arrival.h"

#include <algorithm>
#include <cmath>
#include <future>
#include <optional>
#include <set>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "shape/near_surface.h"
#include "shape/placed.h"
#include "shot/describe.h"
#include "shot/edit.h"

namespace pour {

double* height_of(Shape& shape) {
  if (auto* mark = std::get_if<Mark>(&shape)) return &mark->height;
  if (auto* model = std::get_if<Model>(&shape)) return &model->height;
  return nullptr;
}

namespace {

/// Contents of a model file, analysed once, because testing large parts for holes is slow.
struct LookedAt {
  explicit LookedAt(const Model& m) : parts(unpack_model(m.file.content(), m.file.name)) {
    for (const ModelPart& p : parts) closed.push_back(is_closed(p.mesh)), box.add(p.mesh.bounds());
  }
  std::vector<ModelPart> parts;
  std::vector<char> closed;  // of each of them
  Box box;                   // in units of the file
};

struct FileUnit {
  const char* name;
  double length;  // m
  double rare;    // how much less often models have it, in factors of e
};
constexpr FileUnit file_units[] = {
    {"metres", 1, 0}, {"millimetres", 0.001, 0}, {"centimetres", 0.01, 0}, {"inches", 0.0254, 1.5}};

/// What the units of a file most likely are: with which it is nearest to a thing on a table; null where it is
/// far from that with any.
const FileUnit* likely_unit(double units_high) {
  constexpr double usual = 0.15, least = 0.015, most = 0.8;  // m
  const FileUnit* best = nullptr;
  double nearest = 1e9;
  for (const FileUnit& u : file_units) {
    const double height = units_high * u.length, off = std::abs(std::log(height / usual)) + u.rare;
    if (height >= least && height <= most && off < nearest) best = &u, nearest = off;
  }
  return best;
}

std::string height_in_words(double units_high, double height) {
  const FileUnit* unit = likely_unit(units_high);
  const std::string stands = filled("{height} high.", {{"height", format_quantity(height, Unit::length, 3)}}),
                    in_file = filled("{units} units high in its file",
                                     {{"units", format_quantity(units_high, Unit::none, 3)}});
  if (unit && std::abs(units_high * unit->length / height - 1) < 1e-6)
    return filled("It is {in_file}, taken as {name}: {stands}",
                  {{"in_file", in_file}, {"name", unit->name}, {"stands", stands}});
  return filled("It is {in_file}; it stands {stands}", {{"in_file", in_file}, {"stands", stands}});
}

std::optional<double> likely_height(const LookedAt& model) {
  const double high = model.box.size().y;
  const FileUnit* unit = likely_unit(high);
  return unit ? std::optional(high * unit->length) : std::nullopt;
}

/// Thinnest walls that can be built in seconds; a voxel is a third of it.
double quick_wall(const LookedAt& model, double height) {
  constexpr double most = 1e6;  // voxels along the surface
  double area = 0;
  for (size_t i = 0; i < model.parts.size(); ++i)
    if (!model.closed[i]) area += model.parts[i].mesh.area();
  const double high = model.box.size().y, scale = high > 0 ? height / high : 0;
  constexpr double tenth = 1e-4;  // of a millimetre
  return std::ceil(3 * scale * std::sqrt(area / most) / tenth) * tenth;
}

/// Whether its open parts are solids with holes, rather than sheets or vessels open on purpose.
bool has_small_holes(const LookedAt& model) {
  constexpr double small = 0.5;  // a round hole of a hundredth of a ball's surface has 0.35
  bool any = false;
  for (size_t i = 0; i < model.parts.size(); ++i) {
    if (model.closed[i]) continue;
    if (openness(model.parts[i].mesh) > small) return false;
    any = true;
  }
  return any;
}

std::string counted(size_t n, const char* one) { return std::to_string(n) + " " + one + (n == 1 ? "" : "s"); }

std::string listed(const std::set<std::string>& names) {
  std::string out;
  for (const std::string& n : names) out += (out.empty() ? "“" : ", “") + printable(n) + "”";
  return out;
}

std::string in_words(const Model& model, const LookedAt& seen) {
  constexpr size_t most_named = 5;
  size_t triangles = 0, crossings = 0, open_parts = 0;
  std::string open;
  for (size_t i = 0; i < seen.parts.size(); ++i) {
    const ModelPart& p = seen.parts[i];
    triangles += p.mesh.triangles.size();
    if (!seen.closed[i] && ++open_parts <= most_named) open += (open.empty() ? "" : ", ") + p.name;
    crossings += NearSurface(p.mesh).crossings();
  }
  std::string out = filled("{name}: {parts}, {triangles} triangles. {height}",
                           {{"name", model.file.name},
                            {"parts", counted(seen.parts.size(), "part")},
                            {"triangles", format_count(double(triangles))},
                            {"height", height_in_words(seen.box.size().y, model.height)}});
  std::set<std::string> there, missing;
  for (const ModelPart& p : seen.parts)
    if (p.texture) (p.texture->bytes.empty() ? missing : there).insert(p.texture->name);
  if (!there.empty()) out += filled(" Textures: {there}.", {{"there", listed(there)}});
  constexpr size_t most_textures = 255;  // Body::Seen counts them in a byte
  if (there.size() > most_textures)
    out += filled(" Only the first {most} textures are shown; join some of them in its program.",
                  {{"most", std::to_string(most_textures)}});
  if (!missing.empty())
    out += filled(
        " Left out, since they are not beside it or can't be read: {missing}; put them there as PNG or JPEG "
        "and bring it in again.",
        {{"missing", listed(missing)}});
  if (crossings)
    out += filled(" It crosses itself at about {crossings}; what is inside twice counts once.",
                  {{"crossings", counted(crossings, "triangle")}});
  if (!open.empty()) {
    const std::string named =
        open_parts > most_named
            ? filled("{parts} and {others} more",
                     {{"parts", open}, {"others", std::to_string(open_parts - most_named)}})
            : open;
    out += model.open == Model::Open::filled
               ? filled(" Not closed, so they are filled as if their holes were closed: {parts}.",
                        {{"parts", named}})
               : filled(" Not closed, so they get a wall of {wall}: {parts}.",
                        {{"wall", format_quantity(model.wall, Unit::length, 2)}, {"parts", named}});
  }
  return out;
}

}  // namespace

Arrival read_arrival(const std::string& what, const StopAsked& stop) {
  if (lower_suffix(what) == ".svg" || what.find("<svg") != std::string::npos) {
    static const About about{.key = "file", .name = "File"};
    Mark mark;
    mark.drawing = std::get<Drawing>(from_text(about, Drawing(), what, "File"));
    (void)bodies_of(Shape(mark), stop);
    return {mark, mark.drawing.name};
  }
  Model model;
  model.file = model_from(what, stop);
  const LookedAt seen(model);
  if (!(seen.box.size().y > 0)) (void)model.all_parts();  // says that it is flat
  if (has_small_holes(seen)) model.open = Model::Open::filled;
  if (const auto height = likely_height(seen)) model.height = *height;
  model.wall = std::max(model.wall, quick_wall(seen, model.height));
  return {model, model.file.name};
}

std::string add_arrival(Shot& shot, const Arrival& arrival, const std::string& name) {
  const std::string path = add_new_piece(shot, int(arrival.shape.index()),
                                         name.empty() ? fs::path(arrival.file).stem().string() : name);
  Piece& p = shot.pieces.back();
  p.shape = arrival.shape, p.blocks = p.shows = true;
  p.position = {p.position.x, *height_of(p.shape) / 2 + 0.004, 0};
  return path;
}

std::string bring_in(Shot& shot, const std::string& what, const std::string& name) {
  return add_arrival(shot, read_arrival(what), name);
}

std::string place_for(const Shot& shot, const std::string& file) {
  const bool drawing = lower_suffix(file) == ".svg";
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings)
      if (drawing ? std::holds_alternative<Drawing>(s.value) : std::holds_alternative<ModelFile>(s.value))
        return g.path(s);
  return {};
}

namespace {

std::string in_words(const Mark& mark) {
  const SvgDrawing read = read_svg(mark.drawing.content(), mark.drawing.name);
  const Outline outline = outline_of(read, mark.height, mark.drawing.name);
  Box box;
  for (const Outline::Part& p : outline.parts)
    for (const Vec3d& v : p.outer.points) box.add(v);
  std::string out = filled("{name}: {parts}, {width} wide and {height} high",
                           {{"name", mark.drawing.name},
                            {"parts", counted(outline.parts.size(), "part")},
                            {"width", format_quantity(box.size().x, Unit::length, 3)},
                            {"height", format_quantity(box.size().y, Unit::length, 3)}});
  for (size_t i = 0; i < read.left_out.size(); ++i) out += (i ? ", " : "; left out: ") + read.left_out[i];
  return out + ".";
}

}  // namespace

std::string arrival_in_words(const Shape& shape, const StopAsked& stop) {
  // Whether it can stand in a set; meanwhile it is described.
  auto made = std::async(std::launch::async, [&] { (void)bodies_of(shape, stop); });
  std::string words;
  if (const auto* mark = std::get_if<Mark>(&shape)) words = in_words(*mark);
  if (const auto* model = std::get_if<Model>(&shape)) words = in_words(*model, LookedAt(*model));
  made.get();
  return words;
}

}  // namespace pour
