// Commands that make, change and look at a shot.
#include <memory>

#include "base/text.h"
#include "check/checks.h"
#include "door.h"
#include "run/space.h"
#include "shape/fonts.h"
#include "shot/compare.h"
#include "shot/describe.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {

void list_recipes() {
  for (const Recipe& r : recipes()) {
    char key[32];
    std::snprintf(key, sizeof key, "%-16s ", r.key);
    say(key + std::string(r.name) + ": " + r.help);
  }
}

struct New {
  std::string recipe, out, text, font;
  std::vector<std::string> settings;
  bool replace = false, has_text = false;
};

void make_shot(const New& o) {
  Shot shot = find_recipe(o.recipe).make();
  for (Piece& p : shot.pieces) {
    if (!std::holds_alternative<Lettering>(p.shape)) continue;
    if (o.has_text) set_path(shot, "pieces." + p.id + ".text=" + o.text);
    if (!o.font.empty()) set_path(shot, "pieces." + p.id + ".font=" + o.font);
  }
  for (const std::string& s : o.settings) set_path(shot, s);
  const fs::path file = shot_file(o.out.ends_with(".pour") ? o.out : o.out + ".pour");
  if (is_there(file) && !o.replace)
    throw usage_fault(o.out, "is there already.", "Choose another name, or add --replace.");
  if (o.has_text) stand_on_floor(shot), shot.camera = framed(shot, Space(shot));
  (void)Space(shot);  // the word can be set in this font, or says why not
  save_shot(shot, file);
  say("Made " + file.string());
}

void show(const std::string& file, const std::string& wanted) {
  const Shot shot = load_shot(shot_file(file));
  bool found = false;
  for (const Group& g : describe(shot))
    for (const Setting& s : g.settings) {
      const std::string path = g.path(s);
      if (!wanted.empty() && path != wanted && !path.starts_with(wanted + ".")) continue;
      if (wanted.empty() && !s.applies) continue;
      found = true;
      say(path + " = " + s.text());
    }
  if (!found) find_setting(shot, wanted);  // says what is near
}

/// Returns the exit code: whether it can be run.
int check(const std::string& name) {
  const fs::path file = shot_file(name);
  int faults = 0;
  for (const Check& c : check_shot(load_shot(file), file.parent_path())) {
    say((c.level == CheckLevel::fault ? "fault    " : "warning  ") + c.title);
    say("         " + c.text);
    if (!c.fix_name.empty()) say("         Mend it: " + c.fix_name);
    faults += c.level == CheckLevel::fault;
  }
  return faults ? int(Blame::shot) : 0;
}

}  // namespace

void add_shot_commands(CLI::App& app, int& exit_code) {
  app.add_subcommand("recipes", "Lists the shots to start from")->callback(list_recipes);
  app.add_subcommand("fonts", "Lists the fonts")->callback([] {
    for (const FontFile& f : all_fonts()) say(f.name + (f.shipped ? "  (shipped)" : ""));
  });
  app.add_subcommand("settings", "Prints the reference of all settings")->callback([] {
    say_text(settings_reference());
  });

  auto* make = app.add_subcommand("new", "Makes a shot from a recipe");
  const auto n = std::make_shared<New>();
  make->add_option("recipe", n->recipe, "One of those that “recipes” lists")->required();
  make->add_option("--out", n->out, "The shot to write, NAME.pour")->required();
  auto* text = make->add_option("--text", n->text, "The word");
  make->add_option("--font", n->font, "Its font, by full name or by its family");
  make->add_option("--set", n->settings, "Further settings, PATH=VALUE");
  make->add_flag("--replace", n->replace, "Write over a shot that is there");
  make->callback([n, text] {
    n->has_text = text->count() > 0;
    make_shot(*n);
  });

  struct Change {
    std::string file, other;
    std::vector<std::string> settings;
  };
  const auto c = std::make_shared<Change>();
  auto* set = app.add_subcommand("set", "Changes settings of a shot");
  set->add_option("file", c->file, "NAME.pour")->required();
  set->add_option("settings", c->settings, "PATH=VALUE ...")->required();
  set->callback([c] {
    const fs::path file = shot_file(c->file);
    Shot shot = load_shot(file);
    for (const std::string& s : c->settings) set_path(shot, s);
    save_shot(shot, file);
  });
  auto* print = app.add_subcommand("show", "Prints the settings of a shot");
  print->add_option("file", c->file, "NAME.pour")->required();
  print->add_option("path", c->other, "Only this setting or group");
  print->callback([c] { show(c->file, c->other); });
  auto* checks = app.add_subcommand("check", "Says what will go wrong, and how to mend it");
  checks->add_option("file", c->file, "NAME.pour")->required();
  checks->callback([c, &exit_code] { exit_code = check(c->file); });
  auto* use = app.add_subcommand("use", "Sets a shot to what a run was made from; look and camera stay");
  use->add_option("file", c->file, "NAME.pour")->required();
  use->add_option("run", c->other, "A run folder")->required();
  use->callback([c] {
    const fs::path file = shot_file(c->file);
    const Shot shot = load_shot(file);
    save_shot(seen_as(open_run(c->other).shot, shot), file);
  });
}
