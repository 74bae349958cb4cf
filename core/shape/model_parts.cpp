#include "shape/model_parts.h"

#include <algorithm>
#include <numbers>

#include "base/text.h"
#include "shape/hollows.h"
#include "shape/near_surface.h"

namespace pour {
namespace {

constexpr float edge = float(40 * std::numbers::pi / 180);  // that parts two sides
constexpr char surface_mark = '/', side_mark = ':', hollow_mark = '^';
constexpr char marks[] = {surface_mark, side_mark, hollow_mark};

std::vector<std::vector<int>> pieces(const Mesh& mesh, char mark) {
  return mark == surface_mark ? surfaces_of(mesh)
         : mark == side_mark  ? sides_of(mesh, edge)
                              : hollows_of(mesh);
}

/// These triangles of a part.
ModelPart only(const ModelPart& p, const std::vector<int>& triangles) {
  ModelPart out;
  out.name = p.name, out.texture = p.texture;
  std::vector<int> place(p.mesh.points.size(), -1);
  for (const int t : triangles) {
    auto corners = p.mesh.triangles[size_t(t)];
    for (int& c : corners) {
      int& to = place[size_t(c)];
      if (to < 0) {
        to = int(out.mesh.points.size());
        out.mesh.points.push_back(p.mesh.points[size_t(c)]);
        if (!p.colors.empty()) out.colors.push_back(p.colors[size_t(c)]);
        if (!p.uv.empty()) out.uv.push_back(p.uv[size_t(c)]);
      }
      c = to;
    }
    out.mesh.triangles.push_back(corners);
  }
  return out;
}

/// The triangle that is nearest to a point, and how far away it is.
std::pair<int, float> nearest_triangle(const Mesh& mesh, const Vec3f& p) {
  std::pair<int, float> best{-1, 1e30f};
  for (size_t i = 0; i < mesh.triangles.size(); ++i) {
    const auto& t = mesh.triangles[i];
    const float away = length(nearest_of_triangle(p, mesh.points[size_t(t[0])], mesh.points[size_t(t[1])],
                                                  mesh.points[size_t(t[2])]) -
                              p);
    if (away < best.second) best = {int(i), away};
  }
  return best;
}

}  // namespace

std::vector<ModelPart> named_part(const std::vector<ModelPart>& all, const std::string& name) {
  std::vector<ModelPart> out;
  for (const ModelPart& p : all) {
    if (p.name == name) out.push_back(p);
    for (const char mark : marks) {
      if (!name.starts_with(p.name + mark)) continue;
      const auto number = whole_number(name.substr(p.name.size() + 1), 1, 1000000);
      if (!number) continue;
      const auto found = pieces(p.mesh, mark);
      if (size_t(*number) <= found.size()) out.push_back(only(p, found[size_t(*number) - 1]));
    }
  }
  return out;
}

std::vector<std::string> parts_within(const std::vector<ModelPart>& all) {
  std::vector<std::string> out;
  for (const ModelPart& p : all) out.push_back(p.name);
  if (all.size() != 1) return out;
  const size_t n = surfaces_of(all[0].mesh).size();
  out.clear();
  for (size_t i = 0; i < n; ++i) out.push_back(all[0].name + surface_mark + std::to_string(i + 1));
  return out;
}

std::vector<std::string> parts_at(const std::vector<ModelPart>& all, const Vec3f& at) {
  const ModelPart* part = nullptr;
  std::pair<int, float> nearest{-1, 1e30f};
  for (const ModelPart& p : all)
    if (const auto found = nearest_triangle(p.mesh, at); found.second < nearest.second)
      nearest = found, part = &p;
  std::vector<std::string> out;
  if (!part) return out;
  if (all.size() > 1) out.push_back(part->name);
  size_t before = part->mesh.triangles.size();
  for (const char mark : marks) {
    const auto found = pieces(part->mesh, mark);
    for (size_t i = 0; i < found.size(); ++i) {
      // A part as large as one already named adds nothing.
      if (found[i].size() == before ||
          std::find(found[i].begin(), found[i].end(), nearest.first) == found[i].end())
        continue;
      out.push_back(part->name + mark + std::to_string(i + 1));
      before = found[i].size();
      break;
    }
  }
  return out;
}

bool is_hollow(const std::string& part) {
  const size_t at = part.find_last_not_of("0123456789");
  return at != std::string::npos && at + 1 < part.size() && part[at] == hollow_mark;
}

}  // namespace pour
