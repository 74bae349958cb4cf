// easy-pour-reader FILE: writes the parts of a model to its standard output, as pack_model() has them. It
// works with limits of memory and time and opens nothing outside of the model's folder; what goes wrong, it
// says on its standard error in one line.
#include <assimp/DefaultIOSystem.h>
#include <assimp/postprocess.h>
#include <assimp/scene.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <assimp/Importer.hpp>
#include <assimp/IOStream.hpp>

#include <algorithm>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <functional>
#include <map>
#include <sstream>
#include <string_view>

#include "shape/model_bytes.h"

using namespace pour;
namespace fs = std::filesystem;

namespace {

constexpr rlim_t most_memory = rlim_t(6) << 30;  // bytes
/// Of computing: for some megabytes it needs less than a second, unless it is broken.
rlim_t most_seconds(const fs::path& file) {
  constexpr rlim_t least = 30, by_megabyte = 2, most = 120;
  std::error_code error;
  const uintmax_t size = fs::file_size(file, error);
  return error ? least : std::min<rlim_t>(most, least + by_megabyte * rlim_t(size >> 20));
}
constexpr size_t most_triangles = 2000000, most_texture = size_t(128) << 20;

/// Files beside the model and below, and no others.
class OwnFolder : public Assimp::DefaultIOSystem {
 public:
  explicit OwnFolder(const fs::path& file)
      : folder_(fs::weakly_canonical(file).parent_path().string() + "/") {}
  bool Exists(const char* file) const override { return allowed(file) && DefaultIOSystem::Exists(file); }
  Assimp::IOStream* Open(const char* file, const char* mode) override {
    return allowed(file) && mode[0] == 'r' ? DefaultIOSystem::Open(file, mode) : nullptr;
  }

 private:
  bool allowed(const char* file) const {
    std::error_code error;
    const std::string path = fs::weakly_canonical(file, error).string();
    return !error && path.starts_with(folder_);
  }
  std::string folder_;
};

Vec3f color_of(const aiScene& scene, const aiMesh& mesh, bool& has) {
  aiColor4D c(1, 1, 1, 1);
  const aiMaterial* material =
      mesh.mMaterialIndex < scene.mNumMaterials ? scene.mMaterials[mesh.mMaterialIndex] : nullptr;
  // What has no material gets one that is called so.
  aiString name;
  if (material) material->Get(AI_MATKEY_NAME, name);
  has = material && std::string_view(name.C_Str()) != AI_DEFAULT_MATERIAL_NAME &&
        (aiGetMaterialColor(material, AI_MATKEY_BASE_COLOR, &c) == AI_SUCCESS ||
         aiGetMaterialColor(material, AI_MATKEY_COLOR_DIFFUSE, &c) == AI_SUCCESS);
  return {c.r, c.g, c.b};
}

using TextureOf = std::function<std::shared_ptr<const ModelTexture>(const aiMesh&)>;
using Textures = std::map<std::string, std::shared_ptr<const ModelTexture>>;

/// The picture on a mesh, from the model's file or from one beside it; null where it has none.
std::shared_ptr<const ModelTexture> texture_of(const aiScene& scene, const aiMesh& mesh,
                                               Assimp::IOSystem& files, const fs::path& folder,
                                               Textures& known) {
  if (!mesh.mTextureCoords[0] || mesh.mMaterialIndex >= scene.mNumMaterials) return nullptr;
  const aiMaterial& material = *scene.mMaterials[mesh.mMaterialIndex];
  aiString path;
  if (material.GetTexture(aiTextureType_BASE_COLOR, 0, &path) != AI_SUCCESS &&
      material.GetTexture(aiTextureType_DIFFUSE, 0, &path) != AI_SUCCESS)
    return nullptr;
  const auto [found, fresh] = known.try_emplace(path.C_Str());
  if (!fresh) return found->second;
  ModelTexture t;
  if (const aiTexture* inside = scene.GetEmbeddedTexture(path.C_Str())) {
    t.name = inside->mFilename.length ? inside->mFilename.C_Str() : "texture in its file";
    if (inside->mHeight == 0)  // a file of a picture; others are bare pixels, which no exporter writes
      t.bytes.assign(reinterpret_cast<const char*>(inside->pcData), inside->mWidth);
  } else {
    t.name = path.C_Str();
    std::replace(t.name.begin(), t.name.end(), '\\', '/');
    if (Assimp::IOStream* in = files.Open((folder / t.name).c_str(), "rb")) {
      t.bytes.resize(std::min(in->FileSize(), most_texture));
      t.bytes.resize(in->Read(t.bytes.data(), 1, t.bytes.size()));
      files.Close(in);
    }
  }
  return found->second = std::make_shared<const ModelTexture>(std::move(t));
}

void add_part(const aiScene& scene, const aiMesh& mesh, const aiMatrix4x4& place, const std::string& node,
              const TextureOf& texture, std::vector<ModelPart>& out) {
  ModelPart p;
  p.name = mesh.mName.length ? mesh.mName.C_Str() : node;
  const bool mirrored = place.Determinant() < 0;
  for (unsigned i = 0; i < mesh.mNumVertices; ++i) {
    const aiVector3D v = place * mesh.mVertices[i];
    p.mesh.points.push_back({v.x, v.y, v.z});
  }
  for (unsigned i = 0; i < mesh.mNumFaces; ++i) {
    const aiFace& f = mesh.mFaces[i];
    if (f.mNumIndices != 3) continue;
    std::array<int, 3> t{int(f.mIndices[0]), int(f.mIndices[1]), int(f.mIndices[2])};
    if (mirrored) std::swap(t[1], t[2]);
    p.mesh.triangles.push_back(t);
  }
  p.texture = texture(mesh);
  if (mesh.mTextureCoords[0])
    for (unsigned i = 0; i < mesh.mNumVertices; ++i)
      p.uv.push_back({mesh.mTextureCoords[0][i].x, mesh.mTextureCoords[0][i].y});
  bool has = false;
  const Vec3f color = color_of(scene, mesh, has);
  for (unsigned i = 0; i < mesh.mNumVertices; ++i)
    if (mesh.mColors[0])
      p.colors.push_back({mesh.mColors[0][i].r, mesh.mColors[0][i].g, mesh.mColors[0][i].b});
    else if (has)
      p.colors.push_back(color);
  if (!p.mesh.triangles.empty()) out.push_back(std::move(p));
}

void walk(const aiScene& scene, const aiNode& node, const aiMatrix4x4& outer, const TextureOf& texture,
          std::vector<ModelPart>& out) {
  const aiMatrix4x4 place = outer * node.mTransformation;
  for (unsigned i = 0; i < node.mNumMeshes; ++i)
    add_part(scene, *scene.mMeshes[node.mMeshes[i]], place, node.mName.C_Str(), texture, out);
  for (unsigned i = 0; i < node.mNumChildren; ++i) walk(scene, *node.mChildren[i], place, texture, out);
}

/// Why a PLY file can't be one, or null: Assimp looks for the end of its header for ever, and takes any
/// count.
const char* wrong_header(const fs::path& file) {
  std::string suffix = file.extension().string();
  std::transform(suffix.begin(), suffix.end(), suffix.begin(), [](char c) { return char(std::tolower(c)); });
  if (suffix != ".ply") return nullptr;
  std::string head(size_t(1) << 16, '\0');
  std::ifstream in(file, std::ios::binary);
  in.read(head.data(), std::streamsize(head.size()));
  head.resize(size_t(std::max<std::streamsize>(0, in.gcount())));
  const size_t end = head.find("end_header");
  if (end == std::string::npos) return "its header has no end";
  std::error_code error;
  const uintmax_t size = fs::file_size(file, error);
  std::istringstream lines(head.substr(0, end));
  for (std::string line; std::getline(lines, line);) {
    std::istringstream words(line);
    std::string word, name;
    uintmax_t count = 0;
    if (words >> word >> name && word == "element" && (!(words >> count) || count > size))
      return "it has not as many elements as its header says";
  }
  return nullptr;
}

int fail(const char* why) {
  std::fprintf(stderr, "%s", why);
  return 1;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return fail("name one file");
#ifndef __SANITIZE_ADDRESS__  // which takes far more memory than it uses
  const rlimit memory{most_memory, most_memory};
  setrlimit(RLIMIT_AS, &memory);
#endif
  prctl(PR_SET_PDEATHSIG, SIGKILL);  // nobody would take what it reads
  const rlim_t seconds = most_seconds(argv[1]);
  const rlimit time{seconds, seconds}, no_core{0, 0};
  setrlimit(RLIMIT_CPU, &time), setrlimit(RLIMIT_CORE, &no_core);
  if (const char* why = wrong_header(argv[1])) return fail(why);
  try {
    Assimp::Importer importer;
    importer.SetIOHandler(new OwnFolder(argv[1]));
    importer.SetPropertyInteger(AI_CONFIG_PP_SBP_REMOVE, aiPrimitiveType_POINT | aiPrimitiveType_LINE);
    const aiScene* scene = importer.ReadFile(
        argv[1], aiProcess_Triangulate | aiProcess_SortByPType | aiProcess_JoinIdenticalVertices |
                     aiProcess_FindDegenerates | aiProcess_ValidateDataStructure);
    if (!scene || !scene->mRootNode) return fail(importer.GetErrorString());
    std::vector<ModelPart> parts;
    Textures known;
    const fs::path folder = fs::weakly_canonical(argv[1]).parent_path();
    const TextureOf texture = [&](const aiMesh& m) {
      return texture_of(*scene, m, *importer.GetIOHandler(), folder, known);
    };
    walk(*scene, *scene->mRootNode, {}, texture, parts);
    size_t triangles = 0;
    for (const ModelPart& p : parts) {
      triangles += p.mesh.triangles.size();
      for (const Vec3f& v : p.mesh.points)
        if (!std::isfinite(v.x) || !std::isfinite(v.y) || !std::isfinite(v.z))
          return fail("it has points that are no numbers");
    }
    if (parts.empty()) return fail("it has no triangles");
    if (triangles > most_triangles) return fail("it has more than 2 million triangles");
    const std::string bytes = pack_model(parts);
    return std::fwrite(bytes.data(), 1, bytes.size(), stdout) == bytes.size() && std::fflush(stdout) == 0
               ? 0
               : fail("nobody takes it");
  } catch (const std::exception& e) {
    return fail(e.what());
  }
}
