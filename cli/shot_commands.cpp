// Commands that make, change and look at a shot.
#include <algorithm>
#include <memory>
#include <sstream>

#include "base/file.h"
#include "base/json.h"
#include "base/text.h"
#include "base/units.h"
#include "check/checks.h"
#include "door.h"
#include "frames/level_set_file.h"
#include "run/forces.h"
#include "run/run_folder.h"
#include "run/staging.h"
#include "shape/fonts.h"
#include "shape/near_surface.h"
#include "shape/placed.h"
#include "shot/animate.h"
#include "shot/arrival.h"
#include "shot/assign.h"
#include "shot/compare.h"
#include "shot/describe.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {

void list_recipes() {
  for (size_t job = 0; job < recipe_jobs().size(); ++job) {
    say((job ? "\n" : "") + std::string(recipe_jobs()[job].label));
    for (const Recipe& r : recipes()) {
      if (r.job != RecipeJob(job)) continue;
      char key[32];
      std::snprintf(key, sizeof key, "  %-20s ", r.key);
      say(filled("{key}{name}: {help} Shows {teaches}; draft {draft}.",
                 {{"key", key},
                  {"name", std::string(r.name)},
                  {"help", r.help},
                  {"teaches", r.teaches},
                  {"draft", format_duration(r.draft)}}));
    }
  }
}

/// Says of each setting that was given a value whether that has no effect in the shot as it was saved. One
/// that a later assignment took away, with the kind of its piece, is not asked.
void tell_of_effects(const Shot& shot, const std::vector<std::string>& assignments,
                     const std::string& before = {}) {
  const std::vector<std::string> known = setting_paths(shot);
  for (const std::string& a : assignments) {
    const std::string path = path_now(shot, before + a.substr(0, a.find_first_of("=@")));
    if (std::find(known.begin(), known.end(), path) == known.end() || find_setting(shot, path).applies)
      continue;
    say(filled("{path} has no effect at present: another setting decides in its place. Its value is kept.",
               {{"path", path}}));
  }
}

/// Moves the shot camera where another word or font, of those assignments, no longer fits into its picture.
/// One that moves by keys of its own is left alone.
void keep_words_in_picture(Shot& shot, const std::vector<std::string>& assignments) {
  const bool other_word = std::any_of(assignments.begin(), assignments.end(), [](const std::string& a) {
    const std::string path = a.substr(0, a.find('='));
    return path.ends_with(".text") || path.ends_with(".font");
  });
  if (!other_word || !shot.camera.tracks.empty()) return;
  try {
    const Space space(shot);
    bool out = false;
    for (size_t i = 0; i < shot.pieces.size(); ++i)
      out = out || (std::holds_alternative<Lettering>(shot.pieces[i].shape) &&
                    out_of_picture(shot, shot.pieces[i], space.boxes[i]));
    if (!out) return;
    shot.camera = framed(shot, space);
    say("Moved the camera back, so that all of the set is in the picture.");
  } catch (const Fault&) {  // a word that its font can't set: “check” says so
  }
}

struct New {
  std::string recipe, out, text, font;
  std::vector<std::string> settings;
  bool replace = false, has_text = false;
};

void make_shot(const New& o) {
  Shot shot = find_recipe(o.recipe).make(o.text);
  for (Piece& p : shot.pieces) {
    auto* word = std::get_if<Lettering>(&p.shape);
    if (!word) continue;
    if (o.has_text && o.text.empty()) word->text.clear();
    if (!o.font.empty()) assign(shot, "pieces." + p.id + ".font=" + o.font);
  }
  for (const std::string& s : o.settings) assign(shot, s);
  const fs::path file = shot_file(o.out.ends_with(".pour") ? o.out : o.out + ".pour");
  if (is_there(file) && !o.replace)
    throw usage_fault(o.out, "is there already.", "Choose another name, or add --replace.");
  if (o.has_text) stand_on_floor(shot), shot.camera = framed(shot, Space(shot));
  (void)Space(shot);  // the word can be set in this font, or says why not
  save_shot(shot, file);
  say("Made " + file.string());
  tell_of_effects(shot, o.settings);
}

void show(const std::string& file, const std::string& asked) {
  const Shot shot = load_shot(shot_file(file));
  const std::string wanted = path_now(shot, asked);
  bool found = false;
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings) {
      const std::string path = g.path(s);
      if (!wanted.empty() && path != wanted && !path.starts_with(wanted + ".")) continue;
      if (wanted.empty() && !s.applies) continue;
      found = true;
      say(path + " = " + (s.track ? to_text(s, *s.track) : s.text()));
    }
  if (!found) find_setting(shot, wanted);  // says what is near
}

void list_kind(const Option& kind, const std::string& text) {
  char key[32];
  std::snprintf(key, sizeof key, "%-11s ", kind.key);
  say(key + text);
}

/// The settings that an item has beyond those of all its kinds.
template <class T>
std::string own_settings(const T& item) {
  std::string own;
  for (const Row<T>& row : settings_of(item)) {
    const auto same = [&](const Row<T>& common) { return std::string_view(common.key) == row.key; };
    if (std::none_of(table<T>().begin(), table<T>().end(), same))
      own += (own.empty() ? "" : ", ") + std::string(row.key);
  }
  return own;
}

void list_kinds() {
  for (size_t k = 0; k < kinds().size(); ++k)
    list_kind(kinds()[k],
              std::string(kinds()[k].label) + ": " + own_settings(Piece{.shape = new_shape(int(k))}));
  say("smoke       A fluid, with a pour of it");
  say("liquid      A fluid, with a pour of it");
  say("pour        What brings the first fluid in");
  for (size_t k = 0; k < force_kinds().size(); ++k)
    list_kind(force_kinds()[k],
              std::string("Force: ") + force_kinds()[k].label + ": " + own_settings(new_force(int(k))));
  for (const Option& k : light_kinds()) list_kind(k, std::string("Light: ") + k.label);
  for (const Option& k : material_options()) list_kind(k, std::string("Material: ") + k.label);
}

struct Add {
  std::string file, kind, name;
  std::vector<std::string> settings;
};

/// A kind of item for “add”: its group, its word, and the function that adds it and returns its path.
struct Addition {
  std::string group, kind;
  std::function<std::string(Shot&, const std::string& name)> add;
};

std::vector<Addition> additions() {
  std::vector<Addition> out;
  for (int k = 0; k < int(kinds().size()); ++k)
    out.push_back({"piece", kinds()[size_t(k)].key,
                   [k](Shot& s, const std::string& name) { return add_new_piece(s, k, name); }});
  for (int k = 0; k < int(fluid_kinds().size()); ++k)
    out.push_back({"fluid", fluid_kinds()[size_t(k)].key,
                   [k](Shot& s, const std::string& name) { return add_new_fluid(s, k, name); }});
  out.push_back({"pour", "pour", add_new_pour});
  for (int k = 0; k < int(force_kinds().size()); ++k)
    out.push_back({"force", force_kinds()[size_t(k)].key,
                   [k](Shot& s, const std::string& name) { return add_new_force(s, k, name); }});
  for (size_t k = 0; k < light_kinds().size(); ++k)
    out.push_back({"light", light_kinds()[k].key,
                   [k](Shot& s, const std::string& name) { return add_new_light(s, LightKind(k), name); }});
  for (size_t k = 0; k < material_options().size(); ++k)
    out.push_back({"material", material_options()[k].key, [k](Shot& s, const std::string& name) {
                     return add_new_material(s, NamedMaterial(k), name);
                   }});
  return out;
}

/// Takes the group off the settings where it was said: “piece disc radius=…” comes in as kind and settings.
Addition find_addition(Add& o) {
  const std::vector<Addition> all = additions();
  std::string group;
  for (const Addition& a : all)
    if (o.kind == a.group && !o.settings.empty() && o.settings.front().find('=') == std::string::npos)
      group = a.group;
  if (!group.empty()) o.kind = o.settings.front(), o.settings.erase(o.settings.begin());
  std::vector<const Addition*> found;
  std::vector<std::string> known;
  for (const Addition& a : all) {
    known.push_back(a.kind);
    if (a.kind == o.kind && (group.empty() || a.group == group)) found.push_back(&a);
  }
  if (found.size() == 1) return *found.front();
  if (found.size() > 1)
    throw usage_fault(
        "“" + o.kind + "”",
        filled("is a {one} and a {other}.", {{"one", found[0]->group}, {"other", found[1]->group}}),
        filled("Write “add FILE {one} {kind}” or “add FILE {other} {kind}”.",
               {{"one", found[0]->group}, {"kind", o.kind}, {"other", found[1]->group}}));
  const std::string near = nearest(o.kind, known);
  throw usage_fault(
      "“" + o.kind + "”",
      group.empty() ? "is nothing that can be added." : filled("is no kind of {group}.", {{"group", group}}),
      did_you_mean(near, "“easy-pour-cli kinds” lists them all."));
}

void add_to_shot(Add o) {
  const Addition addition = find_addition(o);
  std::string path;
  const Shot shot = change_shot(o.file, [&](Shot& changed) {
    path = addition.add(changed, o.name);
    for (const std::string& s : o.settings) assign(changed, path + "." + s);
  });
  say("Added " + path);
  tell_of_effects(shot, o.settings, path + ".");
}

struct Import {
  std::string file, drawing, name, parts, size;
  bool json = false;
};

void import_file(const Import& o) {
  std::string path, words;
  change_shot(o.file, [&](Shot& shot) {
    path = add_arrival(shot, read_arrival(o.drawing), o.name);
    if (!o.size.empty()) {
      assign(shot, path + ".height=" + o.size);
      Piece& p = shot.pieces.back();
      p.position.y = *height_of(p.shape) / 2 + 0.004;
    }
    if (!o.parts.empty()) {
      for (const char* part : {"blocks", "shows"}) assign(shot, path + "." + part + "=no");
      std::stringstream in(o.parts);
      // A piece that only helps plays no part.
      for (std::string part; std::getline(in, part, ',');)
        if (part != "helps") assign(shot, path + "." + part + "=yes");
    }
    words = arrival_in_words(shot.pieces.back().shape);
  });
  say(filled("Added {path}. {words}", {{"path", path}, {"words", words}}));
}

Json parts_as_json(const Shape& shape) {
  Json parts = Json::array();
  const auto* model = std::get_if<Model>(&shape);
  for (const Body& b : *bodies_of(shape)) {
    const Mesh& mesh = b.seen ? b.seen->mesh : b.mesh;
    const Vec3d size = mesh.bounds().size();
    parts.push_back({{"triangles", mesh.triangles.size()},
                     {"closed", is_closed(mesh)},
                     {"size", {size.x, size.y, size.z}},
                     {"open_edges", open_edges(mesh)},
                     {"crossing_triangles", NearSurface(mesh).crossings()},
                     {"surfaces", surfaces_of(mesh).size()},
                     {"area", mesh.area()},
                     {"volume", b.mesh.volume()}});
  }
  if (model) {
    const std::vector<ModelPart> named = model->parts();
    for (size_t i = 0; i < parts.size(); ++i) parts[i]["name"] = named[i].name;
  }
  return parts;
}

void inspect(const Import& o) {
  Arrival arrived = read_arrival(o.drawing);
  Shape& shape = arrived.shape;
  const std::string words = arrival_in_words(shape);
  if (!o.json) return say(words);
  const double suggested = *height_of(shape);
  *height_of(shape) = 1;
  if (auto* mark = std::get_if<Mark>(&shape)) mark->bevel = 0, mark->depth = 1;
  say_text(
      Json({{"parts", parts_as_json(shape)}, {"suggested_height", suggested}, {"in_words", words}}).dump(2) +
      "\n");
}

struct ForcesAt {
  std::string file, at = "0 cm, 10 cm, 0 cm", density = "1 g/m3", warmth = "20 K";
  double frame = 1;
};

std::string in_words(const Vec3d& v, Unit unit) {
  About as;
  as.unit = unit;
  return to_words(as, Value(v), 3);
}

void say_forces(const std::vector<ForceThere>& all) {
  for (const ForceThere& f : all) {
    std::string line = "  " + (f.name.empty() ? std::string("Sum") : f.name) + ": ";
    line += in_words(f.acceleration, Unit::acceleration);
    if (f.rate > 0)
      line += filled(
          "; led to {velocity} within {time}",
          {{"velocity", in_words(f.led, Unit::speed)}, {"time", format_quantity(1 / f.rate, Unit::time)}});
    say(line);
  }
}

void list_forces(const ForcesAt& o) {
  const Shot shot = load_shot(shot_file(o.file));
  About length;
  length.unit = Unit::length, length.low = -1e4, length.high = 1e4;
  const Vec3d place = std::get<Vec3d>(from_text(length, Vec3d{}, o.at, "--at"));
  const Motion motion(shot);
  const ForceFields forces(shot);
  const double time = motion.clock().time(o.frame);
  const Shot now = motion.at(time);
  say(filled("At {place} in frame {frame}:",
             {{"place", in_words(place, Unit::length)}, {"frame", std::to_string(int(o.frame))}}));
  if (shot.brings(FlowKind::liquid) || !shot.brings(FlowKind::gas)) {
    say("Liquid");
    say_forces(forces.at(place, {}, now, time));
  }
  if (shot.brings(FlowKind::gas)) {
    const Pushed smoke{.flow = FlowKind::gas,
                       .density = parse_quantity(o.density, Unit::density, "--density"),
                       .warmth = parse_quantity(o.warmth, Unit::warmth, "--warmth")};
    say(filled("Smoke of {density}, {warmth} warmer than the air",
               {{"density", format_quantity(smoke.density, Unit::density)},
                {"warmth", format_quantity(smoke.warmth, Unit::warmth)}}));
    say_forces(forces.at(place, smoke, now, time));
  }
}

struct AsLevelSet {
  std::string file, piece, out, cell = "2mm";
  double frame = 1;
};

void level_set(const AsLevelSet& o) {
  const Shot now = shot_at(load_shot(shot_file(o.file)), o.frame);
  const double cell = parse_quantity(o.cell, Unit::length, "--cell");
  const LevelSetSaid said = write_level_set(
      placed_bodies(now, piece_of(now, named_item(now, "pieces", o.piece).substr(std::strlen("pieces.")))),
      cell, o.out);
  say(filled("{out}: {voxels} voxels of {cell}; its surface is at most {furthest} beside the piece.",
             {{"out", o.out},
              {"voxels", format_count(double(said.voxels))},
              {"cell", format_quantity(cell, Unit::length)},
              {"furthest", format_quantity(said.furthest, Unit::length, 2)}}));
}

/// Mends one thing after the other, until nothing is left that can be.
void mend(const std::string& name) {
  constexpr int most = 20;
  change_shot(name, [&](Shot& shot) {
    for (int k = 0; k < most; ++k) {
      const auto all = check_shot(shot, shot_file(name).parent_path());
      const auto first = std::find_if(all.begin(), all.end(), [](const Check& c) { return c.fix; });
      if (first == all.end()) return;
      const Shot before = shot;
      first->fix(shot);
      if (shot == before) return;
      say("mended   " + first->title + ": " + first->fix_name);
    }
  });
}

/// Prints the cost of a run at each detail, from the pace of earlier runs.
void tell_costs(Shot shot, const fs::path& file) {
  const Pace pace = pace_of(list_runs(file));
  const Setting detail = find_setting(shot, "run.detail");
  for (size_t d = 0; d < detail.options.size(); ++d) {
    if (Detail(d) == Detail::custom && shot.run.detail != Detail::custom) continue;
    shot.run.detail = Detail(d);
    const std::string name = detail.options[d].label;
    try {
      const Staging staging(shot, Space(shot), Staging::For::looking);
      const Estimate e = staging.estimate(pace);
      say(filled("{name}: {time}, {cells} cells of {size}, {memory} of memory, {disk} of disk",
                 {{"name", name},
                  {"time", format_duration(e.seconds)},
                  {"cells", format_count(e.cells)},
                  {"size", format_quantity(staging.cell_size(), Unit::length)},
                  {"memory", format_bytes(e.memory)},
                  {"disk", format_bytes(e.disk)}}));
    } catch (const Fault& f) {  // of this detail, which need not be the shot's
      say(filled("{name}: can't be run. {what}", {{"name", name}, {"what", f.what()}}));
    }
  }
}

/// Returns the exit code: whether it can be run.
int check(const std::string& name) {
  const fs::path file = shot_file(name);
  int faults = 0;
  const Shot shot = load_shot(file);
  const std::vector<Check> found = check_shot(shot, file.parent_path());
  if (found.empty()) say("All is well: nothing was found that would go wrong.");
  for (const Check& c : found) {
    say((c.level == CheckLevel::fault ? "fault    " : "warning  ") + c.title);
    say("         " + c.text);
    if (!c.fix_name.empty()) say(filled("         Mend it: {fix}", {{"fix", c.fix_name}}));
    faults += c.level == CheckLevel::fault;
  }
  if (!faults) tell_costs(shot, file);
  return faults ? int(Blame::shot) : 0;
}

}  // namespace

void add_shot_commands(CLI::App& app, int& exit_code) {
  app.add_subcommand("recipes", "Lists the recipes to start from")->callback(list_recipes);
  app.add_subcommand("fonts", "Lists the fonts that lettering can use")->callback([] {
    for (const FontFile& f : all_fonts()) say(f.name + (f.shipped ? "  (shipped)" : ""));
  });
  app.add_subcommand("settings", "Prints the reference of all settings, as Markdown")->callback([] {
    say_text(settings_reference());
  });

  auto* make = app.add_subcommand("new", "Creates a shot from a recipe");
  const auto n = std::make_shared<New>();
  make->add_option("recipe", n->recipe, "Name of a recipe; “recipes” lists them")->required();
  make->add_option("--out", n->out, "Shot file to write, NAME.pour")->required();
  auto* text = make->add_option("--text", n->text, "Words for the lettering");
  make->add_option("--font", n->font, "Font of the lettering, by full name or family");
  make->add_option("--set", n->settings, "More settings, each PATH=VALUE");
  make->add_flag("--replace", n->replace, "Overwrite an existing shot");
  make->callback([n, text] {
    n->has_text = text->count() > 0;
    make_shot(*n);
  });

  struct Change {
    std::string file, other;
    bool mend = false;
    std::vector<std::string> settings;
  };
  const auto c = std::make_shared<Change>();
  auto* set = app.add_subcommand("set", "Changes settings of a shot");
  set->add_option("file", c->file, "NAME.pour")->required();
  set->add_option("settings", c->settings,
                  "PATH=VALUE sets a value. PATH@FRAME=VALUE [EASE] sets a key, PATH@FRAME= removes it, "
                  "PATH@=VALUE removes all keys.")
      ->required();
  set->callback([c] {
    std::string moved;
    const Shot shot = change_shot(c->file, [&](Shot& changed) {
      const Shot before = changed;
      for (const std::string& s : c->settings) assign(changed, s);
      keep_words_in_picture(changed, c->settings);
      moved = moved_in_film(before, changed);
    });
    if (!moved.empty()) say(moved);
    tell_of_effects(shot, c->settings);
  });
  app.add_subcommand("kinds", "Lists the kinds of item that “add” knows")->callback(list_kinds);
  const auto a = std::make_shared<Add>();
  auto* add = app.add_subcommand("add", "Adds a piece, fluid, pour, force, material or light to a shot");
  add->add_option("file", a->file, "NAME.pour")->required();
  add->add_option("kind", a->kind,
                  "Kind of item; “kinds” lists them. Put piece, force, light or material first where a word "
                  "names two kinds.")
      ->required();
  add->add_option("--name", a->name, "Name of the new item");
  add->add_option("settings", a->settings, "Settings of the new item, each KEY=VALUE");
  add->callback([a] { add_to_shot(*a); });
  const auto i = std::make_shared<Import>();
  auto* bring = app.add_subcommand("import", "Imports a drawing or model into a shot");
  bring->add_option("file", i->file, "NAME.pour")->required();
  bring
      ->add_option("drawing", i->drawing, "SVG, OBJ, PLY, STL, glTF, GLB or FBX file. The shot keeps a copy.")
      ->required();
  bring->add_option("--name", i->name, "Name of the new piece");
  bring->add_option("--part", i->parts,
                    "Parts the piece plays, for example holds,shows, or helps (default blocks,shows)");
  bring->add_option("--size", i->size, "Height of the piece, for example 18cm");
  bring->callback([i] { import_file(*i); });
  auto* look = app.add_subcommand("inspect", "Describes a drawing or model file");
  look->add_option("file", i->drawing, "File that “import” accepts")->required();
  look->add_flag("--json", i->json, "Prints JSON. Lengths are shares of the height.");
  look->callback([i] { inspect(*i); });
  const auto v = std::make_shared<AsLevelSet>();
  auto* volume =
      app.add_subcommand("level-set", "Writes a piece as the solver sees it, as an OpenVDB level set");
  volume->add_option("file", v->file, "NAME.pour")->required();
  volume->add_option("piece", v->piece, "A piece, by name or id")->required();
  volume->add_option("--cell", v->cell, "Voxel size (default 2mm)");
  volume->add_option("--frame", v->frame, "Frame at which the piece is taken (default 1)");
  volume->add_option("--out", v->out, "OpenVDB file to write")->required();
  volume->callback([v] { level_set(*v); });
  const auto f = std::make_shared<ForcesAt>();
  auto* push = app.add_subcommand("forces", "Prints what each force gives at a place, and their sum");
  push->add_option("file", f->file, "NAME.pour")->required();
  push->add_option("--at", f->at, "Place: right, up, towards the camera (default “0 cm, 10 cm, 0 cm”)");
  push->add_option("--frame", f->frame, "Film frame (default 1)");
  push->add_option("--density", f->density, "Density of the smoke there (default “1 g/m3”)");
  push->add_option("--warmth", f->warmth, "Temperature of the smoke above the air (default “20 K”)");
  push->callback([f] { list_forces(*f); });
  auto* print = app.add_subcommand("show", "Prints the settings of a shot");
  print->add_option("file", c->file, "NAME.pour")->required();
  print->add_option("path", c->other, "Setting or group to show, instead of all");
  print->callback([c] { show(c->file, c->other); });
  auto* checks = app.add_subcommand("check", "Reports what will go wrong and how to mend it");
  checks->add_option("file", c->file, "NAME.pour")->required();
  checks->add_flag("--mend", c->mend, "Applies every available fix in turn");
  checks->callback([c, &exit_code] {
    if (c->mend) mend(c->file);
    exit_code = check(c->file);
  });
}
