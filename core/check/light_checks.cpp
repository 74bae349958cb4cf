#include "check/light_checks.h"

#include <algorithm>

#include "base/text.h"
#include "shape/placed.h"
#include "shot/edit.h"
#include "shot/items.h"

namespace pour {
namespace {

bool shines(const Light& l) { return l.strength > 0 || l.tracks.contains("strength"); }

void dark(const Shot& shot, std::vector<Check>& out) {
  const auto& lights = shot.look.lights;
  if (std::any_of(lights.begin(), lights.end(), shines)) return;
  if (lights.empty())
    out.push_back({CheckLevel::warning, "The shot is dark", "It has no lights.", "Set up lights",
                   [](Shot& t) { t.look.lights = light_sets()[0].make(); }});
  else
    out.push_back({CheckLevel::warning, "The shot is dark", "All lights are off.",
                   filled("Turn on {name}", {{"name", lights[0].name}}),
                   [](Shot& t) { t.look.lights[0].strength = 1; }});
}

/// Fluids that no light reaches.
void unlit(const Shot& shot, std::vector<Check>& out) {
  const auto& lights = shot.look.lights;
  for (const Fluid& f : shot.fluids) {
    const bool poured =
        std::any_of(shot.pours.begin(), shot.pours.end(), [&](const Pour& p) { return p.fluid.id == f.id; });
    if (!poured || !std::any_of(lights.begin(), lights.end(), shines)) continue;
    if (std::any_of(lights.begin(), lights.end(),
                    [&](const Light& l) { return shines(l) && l.shines_on.has(f.id); }))
      continue;
    out.push_back({CheckLevel::warning, filled("No light reaches {name}", {{"name", f.name}}),
                   "Every light is limited to other pieces.",
                   filled("Let {name} shine on it", {{"name", lights[0].name}}), [id = f.id](Shot& t) {
                     t.look.lights[0].shines_on.ids.push_back(id);
                     if (t.look.lights[0].strength <= 0) t.look.lights[0].strength = 1;
                   }});
  }
}

void lost(const Shot& shot, const Light& l, std::vector<Check>& out) {
  const auto gone = [](const Shot& s, const std::string& id) { return !s.piece(id) && !s.fluid(id); };
  const auto first = std::find_if(l.shines_on.ids.begin(), l.shines_on.ids.end(),
                                  [&](const std::string& id) { return gone(shot, id); });
  if (first == l.shines_on.ids.end()) return;
  out.push_back({CheckLevel::warning, filled("{name} shines on a missing piece", {{"name", l.name}}),
                 filled("“{first}” is neither a piece nor a fluid of this shot.", {{"first", *first}}),
                 "Remove the name", [id = l.id, gone](Shot& t) {
                   std::erase_if(t.look.light(id).shines_on.ids,
                                 [&](const std::string& other) { return gone(t, other); });
                 }});
}

/// Items with a missing material.
void unmade(const Shot& shot, std::vector<Check>& out) {
  each_made(shot, [&](const std::string& path, const std::string& name, const MaterialId& material) {
    if (!material.id.empty() && !shot.material(material.id))
      out.push_back({CheckLevel::warning, filled("{name} has a missing material", {{"name", name}}),
                     filled("“{id}” is not a material of this shot.", {{"id", material.id}}),
                     "Use no material", [path](Shot& t) { make_of(t, path, ""); }});
  });
}

/// Labels that are to lie as a model says which says nothing.
void unmapped(const Shot& shot, std::vector<Check>& out) {
  for (const Piece& p : shot.pieces) {
    if (p.label.place != LabelPlace::uv || p.label.picture.content().empty() || !p.may_show()) continue;
    const auto bodies = bodies_of(p);
    if (std::any_of(bodies->begin(), bodies->end(),
                    [](const Body& b) { return b.seen && !b.seen->uv.empty(); }))
      continue;
    out.push_back({CheckLevel::warning, filled("{name} can't show its label", {{"name", p.name}}),
                   "The label follows texture coordinates, but the model has none.",
                   "Wrap it around the piece",
                   [id = p.id](Shot& t) { t.piece(id)->label.place = LabelPlace::around; }});
  }
}

}  // namespace

std::vector<Check> light_checks(const Shot& shot) {
  std::vector<Check> out;
  dark(shot, out);
  unlit(shot, out);
  unmapped(shot, out);
  unmade(shot, out);
  for (const Light& l : shot.look.lights) {
    lost(shot, l, out);
    if (l.kind == LightKind::room && l.room == RoomStyle::picture && l.picture.content().empty())
      out.push_back({CheckLevel::warning, filled("{name} has no picture", {{"name", l.name}}),
                     "A picture room needs a panorama.", "Use an even room",
                     [id = l.id](Shot& t) { t.look.light(id).room = RoomStyle::even; }});
  }
  if (shot.look.backdrop == Backdrop::picture && shot.look.backdrop_picture.content().empty())
    out.push_back({CheckLevel::warning, "The backdrop has no picture",
                   "The backdrop is set to a picture, but none is chosen.", "Show the studio",
                   [](Shot& t) { t.look.backdrop = Backdrop::studio; }});
  if (shot.look.backdrop == Backdrop::transparent && shot.film.samples == 0)
    out.push_back({CheckLevel::warning, "Quick pictures are not transparent",
                   "Only traced pictures have alpha. Quick ones show the studio.", "Deliver traced pictures",
                   [](Shot& t) { t.film.samples = 64; }});
  for (const Light& l : shot.look.lights)
    if (l.kind == LightKind::spot && length(l.position - l.aim) < 2 * l.size)
      out.push_back({CheckLevel::warning, filled("{name} is too close to its aim", {{"name", l.name}}),
                     "Its bulb is larger than half the distance.", "Move it away", [id = l.id](Shot& t) {
                       Light& spot = t.look.light(id);
                       spot.position = spot.aim + Vec3d{0, 8 * spot.size, 0};
                     }});
  return out;
}

}  // namespace pour
