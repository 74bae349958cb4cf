#include "trace/scene.h"

#include <tbb/task_arena.h>

#include <cmath>

#include "base/error.h"
#include "base/noise.h"
#include "base/parallel.h"
#include "base/simd.h"

namespace pour {
namespace {

constexpr float floor_roughness = 0.3f;

/// Averages each value with its neighbours on the mesh.
void smooth(std::vector<Vec3f>& values, const Mesh& mesh) {
  std::vector<Vec3f> sum(values.size());
  std::vector<float> count(values.size(), 0);
  for (const auto& t : mesh.triangles)
    for (size_t k = 0; k < 3; ++k) {
      const size_t a = size_t(t[k]), b = size_t(t[(k + 1) % 3]);
      sum[a] += values[b], ++count[a];  // each edge is met from both of its triangles, once from either end
    }
  for (size_t i = 0; i < values.size(); ++i)
    if (count[i] > 0) values[i] = values[i] * 0.5f + sum[i] * (0.5f / count[i]);
}

/// The normal of its surface with the bumps of its relief (Blinn 1978): noise in its own space, and finer
/// noise upon it.
Vec3f in_relief(const TracedBody& body, const Hit& h) {
  const Vec3f own = to<float>(body.pose.inverse(to<double>(h.at))) / body.relief_size;
  constexpr float finer = 2.3f, share = 0.35f;
  const Vec3f slope =
      (flow_noise(own, 0, 1).gradient + flow_noise(own * finer, 0, 2).gradient * (finer * share)) *
      (0.5f * body.relief / body.relief_size);
  const Vec3f up = to<float>(body.pose.turn * to<double>(slope));
  return normalized(h.normal - (up - h.normal * dot(up, h.normal)));
}

/// Away from where a ray starts, against meeting that again.
float start_of(const Vec3f& at) {
  return 4e-6f + 4e-6f * std::max({std::abs(at.x), std::abs(at.y), std::abs(at.z)});
}

}  // namespace

PathTracer::Scene::Scene(TracedSet s, double aspect)
    : set(std::move(s)),
      view(set.camera, aspect),
      opened(set.camera_moves ? set.before_it : set.camera, aspect),
      closed(set.camera_moves ? set.after_it : set.camera, aspect),
      lights(set.look, set.camera, view),
      floor(set.look.floor_surface == FloorKind::glossy ? Substance::coated : Substance::matte,
            floor_roughness, 1.5f),
      under_liquid(Substance::matte, 1, 1.5f) {
  device = rtcNewDevice(ray_instructions);
  scene = rtcNewScene(device);
  for (const TracedBody& body : set.bodies) {
    turns_.emplace_back(body.pose);
    bsdfs.emplace_back(body.substance, body.roughness, body.index, body.thin);
    thin_glass = thin_glass || body.thin;
    clear_bodies = clear_bodies || (body.substance == Substance::glass && !body.thin);
  }
  // A ray that slips between two triangles would take the outside of a clear body for its inside.
  if (thin_glass || clear_bodies) rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST);
  for (const auto& l : lights.lights) bulbs = bulbs || dynamic_cast<const Bulb*>(l.get());
  for (const bool liquid : {false, true}) {
    for (size_t b = 0; b < set.bodies.size(); ++b) {
      if ((set.bodies[b].touches > 0) != liquid) continue;
      if (liquid) touch(set.bodies[b]);
      add(b);
    }
    commit();
  }
  if (clear_bodies) around_eye = bodies_around(view.eye);
}

/// By a ray upwards: out of the bodies that it leaves before it enters them.
Inside PathTracer::Scene::bodies_around(const Vec3f& eye) const {
  Inside out;
  std::vector<bool> met(set.bodies.size());
  const Vec3f up = normalized(Vec3f{0.0123f, 1, 0.0077f});
  Vec3f from = eye;
  for (int i = 0; i < 256; ++i) {
    const auto hit = meet(from, up, 1e30f);
    if (!hit) break;
    if (hit->body >= 0 && !met[size_t(hit->body)]) {
      met[size_t(hit->body)] = true;
      const TracedBody& b = set.bodies[size_t(hit->body)];
      if (b.substance == Substance::glass && !b.thin && dot(up, hit->face) > 0) out.enter(hit->body);
    }
    from = hit->at;
  }
  return out;
}

void PathTracer::Scene::add(size_t number) {
  const TracedBody& body = set.bodies[number];
  const Mesh& mesh = body.surface->mesh;
  RTCGeometry g = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
  const bool moves = set.blurs && (body.moves || !body.velocity.empty());
  if (moves) rtcSetGeometryTimeStepCount(g, 2);
  for (unsigned end = 0; end < (moves ? 2u : 1u); ++end) {
    auto* points = static_cast<float*>(rtcSetNewGeometryBuffer(
        g, RTC_BUFFER_TYPE_VERTEX, end, RTC_FORMAT_FLOAT3, 3 * sizeof(float), mesh.points.size()));
    if (!points) throw machine_fault("Picture", "does not fit into memory.", "Use larger cells.");
    const Pose& pose = !moves || !body.moves ? body.pose : end ? body.after_it : body.before_it;
    for (size_t i = 0; i < mesh.points.size(); ++i) {
      Vec3f p = to<float>(pose * to<double>(mesh.points[i]));
      if (moves && !body.velocity.empty()) p += body.velocity[i] * (float(set.span) * (end ? 0.5f : -0.5f));
      points[3 * i] = p.x, points[3 * i + 1] = p.y, points[3 * i + 2] = p.z;
    }
  }
  auto* corners = static_cast<unsigned*>(rtcSetNewGeometryBuffer(
      g, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 3 * sizeof(unsigned), mesh.triangles.size()));
  if (!corners) throw machine_fault("Picture", "does not fit into memory.", "Use larger cells.");
  for (size_t i = 0; i < mesh.triangles.size(); ++i)
    for (size_t k = 0; k < 3; ++k) corners[3 * i + k] = unsigned(mesh.triangles[i][k]);
  rtcCommitGeometry(g);
  rtcAttachGeometryByID(scene, g, unsigned(number));
  rtcReleaseGeometry(g);
}

void PathTracer::Scene::commit() {
  // Built by one thread: the same tree each time.
  tbb::task_arena alone(1);
  alone.execute([&] { rtcJoinCommitScene(scene); });
}

/// Points of its surface that look at something solid close by are moved into it, or up to a wall of glass:
/// no air is left between.
void PathTracer::Scene::touch(TracedBody& liquid) const {
  Mesh mesh = liquid.surface->mesh;
  std::vector<Vec3f> normal(mesh.points.size());
  for (const auto& t : mesh.triangles) {
    const Vec3f a = mesh.points[size_t(t[0])], b = mesh.points[size_t(t[1])], c = mesh.points[size_t(t[2])];
    for (const int k : t) normal[size_t(k)] += cross(b - a, c - a);
  }
  const float into = 0.2f * liquid.touches, before = 0.01f * liquid.touches;
  std::vector<Vec3f> moved(mesh.points.size());
  parallel_for(mesh.points.size() / 256 + 1, [&](size_t chunk) {
    for (size_t i = chunk * 256; i < std::min(mesh.points.size(), (chunk + 1) * 256); ++i) {
      const Vec3f n = normalized(normal[i]);
      const auto hit = n == Vec3f{} ? std::nullopt : meet(mesh.points[i], n, liquid.touches);
      if (!hit) continue;
      const bool glass = hit->body >= 0 && set.bodies[size_t(hit->body)].thin;
      // From inside of a solid there is nothing to touch; a vessel of glass is looked at from inside.
      const float facing = glass ? dot(n, hit->face) : -dot(n, hit->face);
      const float x =
          std::clamp((facing - 0.2f) / 0.6f, 0.f, 1.f);  // less and less towards the edge of a drop
      moved[i] = n * ((hit->t + (glass ? -before : into)) * x * x * (3 - 2 * x));
    }
  });
  for (int round = 0; round < 3; ++round) smooth(moved, mesh);  // a line of contact without teeth
  for (size_t i = 0; i < moved.size(); ++i) mesh.points[i] += moved[i];
  liquid.surface = std::make_shared<const Surface>(std::move(mesh), liquid.surface->colors, 3.2f);
}

PathTracer::Scene::~Scene() {
  rtcReleaseScene(scene);
  rtcReleaseDevice(device);
}

float PathTracer::Scene::floor_there(const Vec3f& at) const {
  const Vec3f off = at - Vec3f{lights.studio.target.x, 0, lights.studio.target.z};
  return std::exp(-dot(off, off) / (lights.studio.distance * lights.studio.distance * 1.2f));
}

std::optional<Hit> PathTracer::Scene::meet(const Vec3f& from, const Vec3f& d, float end, float time) const {
  RTCIntersectContext context;
  rtcInitIntersectContext(&context);
  RTCRayHit r{};
  r.ray.org_x = from.x, r.ray.org_y = from.y, r.ray.org_z = from.z;
  r.ray.dir_x = d.x, r.ray.dir_y = d.y, r.ray.dir_z = d.z;
  r.ray.tnear = start_of(from), r.ray.tfar = end, r.ray.mask = ~0u, r.ray.time = time;
  r.hit.geomID = RTC_INVALID_GEOMETRY_ID;
  rtcIntersect1(scene, &context, &r);
  Hit h;
  if (lights.studio.floor && d.y < -1e-6f && from.y > 0) {
    const float t = -from.y / d.y;
    if (t > r.ray.tnear && t < r.ray.tfar) {
      h.t = t, h.at = from + d * t, h.at.y = 0;
      h.face = h.normal = {0, 1, 0}, h.color = lights.floor_color;
      return h;
    }
  }
  if (r.hit.geomID == RTC_INVALID_GEOMETRY_ID) return std::nullopt;
  const TracedBody& body = set.bodies[r.hit.geomID];
  const Surface& s = *body.surface;
  h.t = r.ray.tfar, h.body = int(r.hit.geomID);
  h.at = from + d * h.t;
  h.face = normalized(Vec3f{r.hit.Ng_x, r.hit.Ng_y, r.hit.Ng_z});
  h.triangle = r.hit.primID, h.u = r.hit.u, h.v = r.hit.v;
  const float v = h.u, w = h.v, u = 1 - v - w;
  const auto& n = s.normals[r.hit.primID];
  h.normal = turns_[r.hit.geomID] * normalized(n[0] * u + n[1] * v + n[2] * w);
  if (body.relief > 0) h.normal = in_relief(body, h);
  if (dot(h.normal, h.face) < 0.05f) h.normal = h.face;
  h.color = body.color;
  if (!s.colors.empty()) {
    const auto& t = s.mesh.triangles[r.hit.primID];
    h.color = s.colors[size_t(t[0])] * u + s.colors[size_t(t[1])] * v + s.colors[size_t(t[2])] * w;
  }
  std::array<float, 2> uv{};
  if (!s.uv.empty()) {
    const auto& t = s.mesh.triangles[r.hit.primID];
    for (size_t k = 0; k < 2; ++k)
      uv[k] = s.uv[size_t(t[0])][k] * u + s.uv[size_t(t[1])][k] * v + s.uv[size_t(t[2])][k] * w;
    if (!body.textures.empty() && s.texture_of[r.hit.primID])
      h.color = body.textures[s.texture_of[r.hit.primID] - 1u]->texture(uv[0], uv[1]).over(body.color);
  }
  if (body.label) {
    const Vec3f own = to<float>(body.pose.inverse(to<double>(h.at)));
    h.color = body.label->over(h.color, own, to<float>(body.pose.turn.inverse(to<double>(h.normal))), uv);
  }
  return h;
}

Vec3f PathTracer::Scene::reaches(const Reach& way, Sampler& random, uint64_t& rays) const {
  Vec3f part{1, 1, 1};
  const Vec3f &at = way.at, &toward = way.toward;
  if (lights.studio.floor && toward.y < 0 && at.y >= 0 && -at.y / toward.y < way.end)
    part = part * (1 - floor_there(at - toward * (at.y / toward.y)));
  const bool walk = thin_glass || (way.straight && clear_bodies);
  if (!walk) {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRay r{};
    r.org_x = at.x, r.org_y = at.y, r.org_z = at.z;
    r.dir_x = toward.x, r.dir_y = toward.y, r.dir_z = toward.z;
    r.tnear = start_of(at), r.tfar = way.end, r.mask = ~0u, r.time = way.time;
    rtcOccluded1(scene, &context, &r), ++rays;
    if (r.tfar < 0) return {};
  } else {
    Vec3f from = at;
    Inside inside = way.inside;
    float left = way.end;
    std::optional<Hit> shore;
    // Going in light is bunched by n²; ways out spread by as much, which paths leave out, as the lights that
    // they meet by chance are seen through the surface both ways.
    const float start = index_of(inside.first(set.bodies));
    part = part / (start * start);
    for (int i = 0; i < 32; ++i) {
      const auto hit = meet(from, toward, left, way.time);
      ++rays;
      const int within = inside.first(set.bodies);
      if (within >= 0) {  // Beer and Lambert; what is scattered on the way is lost
        const TracedBody& b = set.bodies[size_t(within)];
        const float t = hit ? hit->t : std::min(left, 1e10f);
        const Vec3f absorption =
            b.absorption_between(shore && shore->body == within ? &shore->color : nullptr,
                                 hit && hit->body == within ? &hit->color : nullptr);
        for (int c = 0; c < 3; ++c) part[c] *= std::exp(-(absorption[c] + b.scattering) * t);
      }
      shore = hit;
      if (!hit || hit->body < 0) break;
      const Bsdf& m = bsdfs[size_t(hit->body)];
      if (!m.thin() && !(way.straight && m.only_followed())) return {};
      const float cosine = std::min(1.f, std::abs(dot(hit->normal, toward)));
      if (m.thin()) {
        const float f = fresnel(cosine, 1 / m.index());
        part = part * hit->color * ((1 - f) / (1 + f));
      } else {
        dot(toward, hit->face) < 0 ? inside.enter(hit->body) : inside.leave(hit->body);
        part = part * (1 - fresnel(cosine, index_of(within) / index_of(inside.first(set.bodies))));
      }
      from = hit->at, left -= hit->t;
    }
  }
  for (const TracedSmoke& s : set.smoke)
    if (!s.empty() && part.y > 0) part = part * s.through(at, toward, way.end, way.time, random);
  return part;
}

}  // namespace pour
