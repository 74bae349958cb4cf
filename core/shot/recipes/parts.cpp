#include "shot/recipes/all.h"

namespace pour::recipe {

void key_size(Shot& s, double wide) {
  Light& key = s.look.light("key");
  key.width = wide * degree, key.height = 2 * std::atan(0.75 * std::tan(wide * degree / 2));
}

Piece word(const std::string& text) {
  Piece p;
  p.id = "word", p.name = "Lettering";
  if (!text.empty()) std::get<Lettering>(p.shape).text = text;
  p.position = {0, Lettering().letter_size / 2 + 0.004, 0};
  return p;
}

Piece guide(const char* id, const char* name, Shape shape, const Vec3d& position) {
  Piece p;
  p.id = id, p.name = name, p.shape = std::move(shape), p.position = position;
  p.holds = p.shows = false;
  return p;
}

Piece solid(const char* id, const char* name, Shape shape, const Vec3d& position) {
  Piece p;
  p.id = id, p.name = name, p.shape = std::move(shape), p.position = position;
  p.holds = false, p.blocks = true;
  return p;
}

Material& add_material(Shot& shot, const char* id, const char* name, NamedMaterial kind, const Color& color) {
  Material m = new_material(kind);
  m.id = id, m.name = name, m.color = color;
  shot.materials.push_back(m);
  return shot.materials.back();
}

Material& made_of(Shot& shot, Piece& piece, const char* id, const char* name, NamedMaterial kind,
                  const Color& color) {
  piece.material.id = id;
  return add_material(shot, id, name, kind, color);
}

Pour& add_smoke(Shot& shot, const char* id, const char* name, const Color& color) {
  shot.fluids.push_back({.id = id, .name = name, .what = Smoke{color}});
  shot.pours.push_back({.id = id, .name = name, .fluid = {id}, .patchiness = 0.5});
  return shot.pours.back();
}

Liquid& last_liquid(Shot& shot) { return *shot.fluids.back().as<Liquid>(); }

Pour& add_liquid(Shot& shot, const char* id, NamedLiquid liquid, const char* source) {
  const LiquidName& named = named_liquids()[size_t(liquid)];
  shot.fluids.push_back({.id = id,
                         .name = named.option.label,
                         .what = Liquid{.color = named.color, .named = liquid, .temperature = named.usual}});
  shot.pours.push_back({.id = id, .name = named.option.label, .fluid = {id}});
  Pour& p = shot.pours.back();
  p.from = SourceKind::piece, p.source.id = source;
  shot.run.open_bottom = false;
  return p;
}

Track keys(std::initializer_list<std::pair<double, Value>> values, Ease ease) {
  Track t;
  for (const auto& [frame, value] : values) t.keys.push_back({at_frame(frame), value, ease, {}});
  return t;
}

}  // namespace pour::recipe
