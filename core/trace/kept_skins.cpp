#include "trace/kept_skins.h"

#include "base/file.h"
#include "base/json.h"
#include "base/version.h"
#include "frames/liquid_frame.h"
#include "picture/quick_picture.h"
#include "shot/animate.h"
#include "shot/compare.h"
#include "shot/items.h"
#include "shot/shot_file.h"
#include "surface/skin_file.h"

namespace pour {
namespace {

constexpr const char* made_by = "skins 1 " EASY_POUR_VERSION;  // of another build they are others

/// A file that came in by its checksum in place of its bytes.
template <class Kind>
void shorten(Enclosed<Kind>& e) {
  e = {std::to_string(checksum(e.content())), nullptr};
}

/// Inputs of skins; empty if the frame's id is unknown.
std::string inputs_of(const StoredFrame& stored, const Shot& shot, double frame) {
  if (stored.id.empty()) return {};
  Shot content = undelivered(shot);
  content.look = {}, content.camera = {}, content.pours.clear();
  for (Fluid& f : content.fluids)
    if (Liquid* liquid = f.as<Liquid>(); liquid && !has_bubbles(content, *liquid)) liquid->bubbles = 0;
  each_made(content, [](const std::string&, const std::string&, MaterialId& material) { material = {}; });
  content.materials.clear();
  for (Piece& p : content.pieces) {
    p.label = {};
    if (auto* model = std::get_if<Model>(&p.shape)) shorten(model->file);
    if (auto* mark = std::get_if<Mark>(&p.shape)) shorten(mark->drawing);
  }
  const std::string all = made_by + stored.id + " " + std::to_string(frame) + " " + shot_to_json(content);
  return in_digits(checksum(all));
}

}  // namespace

Mesh solids_of(const Shot& now, const std::vector<PicturePiece>& pieces) {
  Mesh all;
  for (const PicturePiece& p : pieces) {
    const Piece* piece = now.piece(p.id);
    if (!piece || piece->holds) continue;
    Mesh one = p.surface->mesh;
    one.place(p.pose);
    all.append(one);
  }
  return all;
}

fs::path skins_file(const StoredFrame& stored) {
  return stored.file.parent_path().parent_path() / "skins" / (stored.file.stem().string() + ".ply");
}

bool has_skins(const StoredFrame& stored, const Shot& shot, double frame) {
  const fs::path file = skins_file(stored);
  if (!is_there(file)) return false;
  const std::string inputs = inputs_of(stored, shot, frame);
  return !inputs.empty() && skins_made_from(file) == inputs;
}

std::optional<std::vector<FluidSkin>> kept_skins(const StoredFrame& stored, const Shot& shot, double frame) {
  const fs::path file = skins_file(stored);
  return is_there(file) ? read_skins(file, inputs_of(stored, shot, frame)) : std::nullopt;
}

void keep_skins(const StoredFrame& stored, const Shot& shot, double frame) {
  const Shot now = shot_at(shot, frame);
  const fs::path file = skins_file(stored);
  std::error_code there;  // what is wrong with the folder, writing says
  fs::create_directories(file.parent_path(), there);
  write_skins(skins_of(now, read_liquid(stored), solids_of(now, picture_pieces(now))),
              inputs_of(stored, shot, frame), file);
}

}  // namespace pour
