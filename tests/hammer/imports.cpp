// What comes in from files that others made: drawings, and models of every format.
#include <assimp/scene.h>
#include <unistd.h>
#include <assimp/Exporter.hpp>
#include <assimp/Importer.hpp>

#include "base/error.h"
#include "base/json.h"
#include "hammer.h"
#include "shape/body.h"
#include "shot/arrival.h"
#include "shot/edit.h"

namespace hammer {

using namespace pour;

namespace {

/// How Assimp's exporter calls a format, and how its files end.
struct Format {
  const char *suffix, *id;
  fs::path good() const { return fs::path(id) / ("good" + std::string(suffix)); }
};
constexpr Format formats[] = {{".obj", "obj"},  {".ply", "ply"},  {".ply", "plyb"},
                              {".stl", "stl"},  {".stl", "stlb"}, {".gltf", "gltf2"},
                              {".glb", "glb2"}, {".fbx", "fbx"},  {".fbx", "fbxa"}};
/// One of Assimp's samples: it can't read the binary FBX that it writes.
constexpr const char* binary_fbx = "/usr/share/assimp/models/FBX/box.fbx";

/// A box and a tent in parts of their own, with names and colours.
constexpr const char* good_model =
    "mtllib two.mtl\no Box\nusemtl Red\nv -1 0 1\nv 1 0 1\nv 1 2 1\nv -1 2 1\nv -1 0 -1\nv 1 0 -1\nv 1 2 -1\n"
    "v -1 2 -1\nvt 0 0\nvt 1 0\nvt 1 1\nf 1/1 2/2 3/3 4/1\nf 6/1 5/2 8/3 7/1\nf 2/1 6/2 7/3 3/1\n"
    "f 5/1 1/2 4/3 8/1\nf 4/1 3/2 7/3 8/1\nf 5/1 6/2 2/3 1/1\n"
    "o Tent\nusemtl Green\nv 2 0 0\nv 3 0 0\nv 2.5 1 0.5\nv 2.5 0 1\nf 9 10 11\nf 10 12 11\nf 12 9 11\nf 9 "
    "12 10\n";

constexpr const char* good_drawing =
    "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 80 60' "
    "width='80mm'><style>.a{fill:#c43;stroke:navy;"
    "stroke-width:2}</style><defs><g id='leaf'><path d='M0 0 C10 -10 20 -10 30 0 S10 20 0 0Z'/></g>"
    "<linearGradient id='g'><stop offset='0' stop-color='red'/><stop offset='1' stop-color='#00f'/>"
    "</linearGradient></defs><g transform='translate(5 20) rotate(10)'><use href='#leaf' x='3'/>"
    "<rect class='a' x='30' y='2' width='20' height='12' rx='3'/></g><circle cx='60' cy='40' r='9' "
    "fill='url(#g)'/><polygon points='5,50 20,40 25,58' fill-rule='evenodd'/><path d='m40 50 h10 v6 q-5 4 "
    "-10 0 z' stroke='#123' stroke-dasharray='3 1' stroke-linecap='round' fill='none'/>"
    "<radialGradient id='h' href='#g' cx='.4' fx='9' r='40%' spreadMethod='reflect' "
    "gradientTransform='rotate(30) scale(.5)'/>"
    "<circle cx='60' cy='40' r='9' fill='url(#h)' stroke='url(#g)'/></svg>";

std::string without(std::string text, const std::string& part) {
  if (const size_t at = text.find(part); at != std::string::npos) text.erase(at, part.size());
  return text;
}

/// What comes in stands in the set and is read back; what does not, says why.
Held bring(const std::string& what) {
  Shot shot;
  try {
    (void)add_arrival(shot, read_arrival(what));
    (void)bodies_of(shot.pieces.at(0).shape);
  } catch (const Fault& f) {
    must(!f.where.empty() && !f.problem.empty() && !f.mend.empty(),
         std::string("a fault without words: ") + f.what());
    must(std::string(f.what()).size() < 4000, "an endless message");
    return Held::refused;
  }
  for (const Body& b : *bodies_of(shot.pieces.at(0).shape)) {
    const Box box = b.mesh.bounds();
    must(std::isfinite(length(box.size())) && length(box.size()) < 1e4, "a piece without an end");
    must(std::isfinite(b.mesh.volume()), "a volume that is no number");
  }
  return Held::accepted;
}

std::string broken(const std::string& text, const std::string& suffix, Luck& luck) {
  if (suffix == ".gltf" && luck.one_in(2) && Json::accept(text)) return broken_json(text, luck);
  return broken_bytes(text, luck);
}

}  // namespace

Try models(const fs::path& common_to_all) {
  // Other processes make theirs at the same time.
  const fs::path common = common_to_all / std::to_string(getpid());
  fs::create_directories(common);
  write_whole(common / "two.mtl", "newmtl Red\nKd 1 0 0\nnewmtl Green\nKd 0 1 0\n");
  write_whole(common / "two.obj", good_model);
  Assimp::Importer importer;
  const aiScene* scene = importer.ReadFile((common / "two.obj").string(), 0);
  must(scene, "a model that is not read");
  for (const Format& f : formats) {
    const fs::path file = common / f.good();
    fs::create_directories(file.parent_path());
    Assimp::Exporter exporter;
    if (f.id == std::string("fbx"))
      fs::copy_file(binary_fbx, file, fs::copy_options::overwrite_existing);
    else
      must(exporter.Export(scene, f.id, file.string()) == AI_SUCCESS,
           std::string("no model as ") + f.id + ": " + exporter.GetErrorString());
    must(bring(file.string()) == Held::accepted, std::string("a good model is refused: ") + f.id);
  }
  return [common](Luck& luck, const fs::path& folder) {
    const Format& f = formats[luck.below(std::size(formats))];
    fs::copy(common / f.id, folder, fs::copy_options::recursive);
    const fs::path file = folder / f.good().filename();
    const std::string text = read_whole(file);
    write_whole(file, broken(text, f.suffix, luck));
    return bring(file.string());
  };
}

Try drawings(const fs::path&) {
  must(bring(good_drawing) == Held::accepted, "a good drawing is refused");
  return [](Luck& luck, const fs::path& folder) {
    std::string text = good_drawing;
    text = broken_bytes(text, luck);
    if (luck.one_in(8)) text = without(text, "viewBox='0 0 80 60' ");
    write_whole(folder / "broken.svg", text);
    return bring((folder / "broken.svg").string());
  };
}

}  // namespace hammer
