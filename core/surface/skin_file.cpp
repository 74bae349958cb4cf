#include "surface/skin_file.h"

#include <cstring>
#include <fstream>
#include <sstream>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"

namespace pour {
namespace {

constexpr char inputs_mark[] = "comment inputs ", sum_mark[] = "comment sum ", end_mark[] = "end_header\n";
constexpr size_t longest_head = 4096;

#pragma pack(push, 1)
struct Vertex {
  float place[3], color[3], velocity[3];  // plain, since they lie at any address
  uint8_t fluid;
};
struct Face {
  uint8_t corners = 3;
  int32_t at[3];
};
struct Particle {
  float depth;
  uint8_t fluid;
};
#pragma pack(pop)

template <class T>
void put(std::string& out, const T& t) {
  out.append(reinterpret_cast<const char*>(&t), sizeof t);
}

struct Head {
  std::string inputs, sum;
  size_t vertices = 0, faces = 0, particles = 0, length = 0;
};

std::optional<Head> head_of(const std::string& text) {
  const size_t end = text.substr(0, longest_head).find(end_mark);
  if (!text.starts_with("ply\n") || end == std::string::npos) return std::nullopt;
  Head h;
  h.length = end + std::strlen(end_mark);
  std::istringstream lines(text.substr(0, end));
  for (std::string line; std::getline(lines, line);) {
    const auto after = [&](const char* mark) -> std::optional<std::string> {
      return line.starts_with(mark) ? std::optional(line.substr(std::strlen(mark))) : std::nullopt;
    };
    const auto count = [&](const char* mark, size_t& to) {
      if (const auto word = after(mark))
        if (const auto n = whole_number(*word, 0, 1 << 30)) to = size_t(*n);
    };
    if (const auto word = after(inputs_mark)) h.inputs = *word;
    if (const auto word = after(sum_mark)) h.sum = *word;
    count("element vertex ", h.vertices), count("element face ", h.faces);
    count("element particle ", h.particles);
  }
  return h;
}

Vertex vertex(const Vec3f& p, const Vec3f& c, const Vec3f& v, int fluid) {
  return {{p.x, p.y, p.z}, {c.x, c.y, c.z}, {v.x, v.y, v.z}, uint8_t(fluid)};
}

std::string body_of(const std::vector<FluidSkin>& skins) {
  std::string out;
  int first = 0;
  for (const FluidSkin& f : skins)
    for (size_t i = 0; i < f.skin.mesh.points.size(); ++i)
      put(out, vertex(f.skin.mesh.points[i], f.skin.colors[i], f.skin.velocity[i], f.fluid));
  for (const FluidSkin& f : skins) {
    for (const auto& t : f.skin.mesh.triangles) put(out, Face{3, {first + t[0], first + t[1], first + t[2]}});
    first += int(f.skin.mesh.points.size());
  }
  for (const FluidSkin& f : skins)
    for (const float d : f.skin.depth) put(out, Particle{d, uint8_t(f.fluid)});
  return out;
}

template <class T>
const char* take(const char* at, std::vector<T>& to) {
  if (!to.empty()) std::memcpy(to.data(), at, to.size() * sizeof(T));
  return at + to.size() * sizeof(T);
}

/// False where corners are none of a liquid's own.
bool sort_out(const std::vector<Vertex>& vertices, const std::vector<Face>& faces,
              const std::vector<Particle>& particles, std::vector<FluidSkin>& out) {
  std::vector<int> place(vertices.size());
  for (size_t i = 0; i < vertices.size(); ++i) {
    const Vertex& v = vertices[i];
    if (out.empty() || out.back().fluid != v.fluid) out.push_back({v.fluid, {}});
    Skin& s = out.back().skin;
    place[i] = int(s.mesh.points.size());
    s.mesh.points.push_back({v.place[0], v.place[1], v.place[2]});
    s.colors.push_back({v.color[0], v.color[1], v.color[2]});
    s.velocity.push_back({v.velocity[0], v.velocity[1], v.velocity[2]});
  }
  const auto of = [&](int fluid) {
    return std::find_if(out.begin(), out.end(), [&](const FluidSkin& f) { return f.fluid == fluid; });
  };
  for (const Face& f : faces) {
    for (size_t k = 0; k < 3; ++k)
      if (const int32_t corner = f.at[k]; corner < 0 || size_t(corner) >= vertices.size() ||
                                          vertices[size_t(corner)].fluid != vertices[size_t(f.at[0])].fluid)
        return false;
    of(vertices[size_t(f.at[0])].fluid)
        ->skin.mesh.triangles.push_back(
            {place[size_t(f.at[0])], place[size_t(f.at[1])], place[size_t(f.at[2])]});
  }
  for (const Particle& p : particles) {
    const auto to = of(p.fluid);
    if (to == out.end()) return false;
    const float depth = p.depth;
    to->skin.depth.push_back(depth);
  }
  return true;
}

}  // namespace

void write_skins(const std::vector<FluidSkin>& skins, const std::string& inputs, const fs::path& file) {
  size_t vertices = 0, faces = 0, particles = 0;
  for (const FluidSkin& f : skins)
    vertices += f.skin.mesh.points.size(), faces += f.skin.mesh.triangles.size(),
        particles += f.skin.depth.size();
  const std::string body = body_of(skins);
  std::ostringstream head;
  head << "ply\nformat binary_little_endian 1.0\ncomment The skins of liquids, by Easy Pour, m, y upwards\n"
       << inputs_mark << inputs << "\n"
       << sum_mark << in_digits(checksum(body)) << "\nelement vertex " << vertices << "\n";
  for (const char* name : {"x", "y", "z", "red", "green", "blue", "vx", "vy", "vz"})
    head << "property float " << name << "\n";
  head << "property uchar fluid\nelement face " << faces << "\nproperty list uchar int vertex_indices\n"
       << "element particle " << particles << "\nproperty float depth\nproperty uchar fluid\n"
       << end_mark;
  const std::string text = head.str();
  write_whole(file, {text, body});
}

std::string skins_made_from(const fs::path& file) {
  std::ifstream in(file, std::ios::binary);
  std::string text(longest_head, '\0');
  in.read(text.data(), std::streamsize(text.size()));
  text.resize(size_t(std::max<std::streamsize>(0, in.gcount())));
  const auto head = head_of(text);
  return head ? head->inputs : std::string();
}

std::optional<std::vector<FluidSkin>> read_skins(const fs::path& file, const std::string& inputs) {
  if (inputs.empty() || skins_made_from(file) != inputs) return std::nullopt;
  std::string text;
  try {
    text = read_whole(file);
  } catch (const Fault&) {
    return std::nullopt;
  }
  const auto head = head_of(text);
  if (!head || head->inputs != inputs) return std::nullopt;
  std::vector<Vertex> vertices(head->vertices);
  std::vector<Face> faces(head->faces);
  std::vector<Particle> particles(head->particles);
  const size_t size =
      vertices.size() * sizeof(Vertex) + faces.size() * sizeof(Face) + particles.size() * sizeof(Particle);
  const std::string_view body = std::string_view(text).substr(head->length);
  if (body.size() != size || in_digits(checksum(body)) != head->sum) return std::nullopt;
  const char* at = take(body.data(), vertices);
  at = take(at, faces), take(at, particles);
  std::vector<FluidSkin> out;
  return sort_out(vertices, faces, particles, out) ? std::optional(std::move(out)) : std::nullopt;
}

}  // namespace pour
