// Commands that change the things that are in a shot.
#include <memory>

#include "base/text.h"
#include "door.h"
#include "run/arc.h"
#include "run/space.h"
#include "shape/placed.h"
#include "shot/assign.h"
#include "shot/compare.h"
#include "shot/edit.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {

struct Item {
  std::string file, item, word, by = "4mm";
  double frame = 1;
  std::vector<std::string> words;
};

using ItemEdit = std::function<void(Shot&, const Item&)>;

/// Adds a command on a shot and one more argument; returns it for further options.
CLI::App* command(CLI::App& app, const char* name, const char* help, const char* what,
                  const std::shared_ptr<Item>& o, const ItemEdit& change) {
  auto* command = app.add_subcommand(name, help);
  command->add_option("file", o->file, "NAME.pour")->required();
  command->add_option("item", o->item, what)->required();
  command->callback([o, change] { change_shot(o->file, [&](Shot& s) { change(s, *o); }); });
  return command;
}

/// The same for something in the shot, which `change` gets by its path.
CLI::App* on_any(CLI::App& app, const char* name, const char* help, const std::shared_ptr<Item>& o,
                 const ItemEdit& change) {
  return command(app, name, help, "A piece, fluid, pour, force, material or light, by name, id or path", o,
                 [change](Shot& s, Item i) {
                   i.item = named_item(s, "", i.item);
                   change(s, i);
                 });
}

/// The same for an item of one list, which `change` gets by its id.
CLI::App* on_one(CLI::App& app, const char* name, const char* help, const std::string& list, const char* what,
                 const std::shared_ptr<Item>& o, const ItemEdit& change) {
  return command(app, name, help, what, o, [change, list](Shot& s, Item i) {
    i.item = named_item(s, list, i.item).substr(list.size() + 1);
    change(s, i);
  });
}

void wrap(Shot& shot, const Item& o) {
  if (!std::holds_alternative<Model>(piece_of(shot, o.item).shape))
    throw shot_fault(o.item, "is no model.", "Wrap a piece that came from a model file.");
  assign(shot, "pieces." + o.item + ".wrap=" + o.by);
  (void)bodies_of(*shot.piece(o.item));  // whether there is such a hull
}

void settle(Shot& shot, const Item& o) {
  for (const std::string& how : o.words)
    settle_piece(shot, o.item,
                 how == "floor"    ? Settle::floor
                 : how == "centre" ? Settle::centre
                                   : Settle::upright);
}

void frame_set(Shot& shot) {
  for (const char* key : {"target", "distance"})
    if (shot.camera.tracks.contains(key))
      throw shot_fault(std::string("camera.") + key, "moves by keys of its own.",
                       filled("Remove them first: set camera.{key}@=VALUE.", {{"key", key}}));
  shot.camera = framed(shot, Space(shot));
}

}  // namespace

void add_item_commands(CLI::App& app) {
  const auto o = std::make_shared<Item>();
  const auto on_piece = [&](const char* name, const char* help, const ItemEdit& change) {
    return on_one(app, name, help, "pieces", "A piece, by name or id", o, change);
  };
  on_piece("wrap", "Gives a model a simple closed hull for the fluid to meet", wrap)
      ->add_option("--by", o->by, "Distance of the hull from the model (default 4mm)");
  on_any(app, "remove", "Removes a piece, fluid, pour, force, material or light from a shot", o,
         [](Shot& s, const Item& i) { remove_item(s, i.item); });
  on_any(app, "rename", "Renames a piece, fluid, pour, force, material or light", o,
         [](Shot& s, const Item& i) { rename_item(s, i.item, i.word); })
      ->add_option("name", o->word, "New name")
      ->required();
  on_piece("settle", "Places a piece on the floor, in the centre, or upright", settle)
      ->add_option("how", o->words, "floor, centre or upright; several are done in order")
      ->required()
      ->check(CLI::IsMember({"floor", "centre", "upright"}));
  on_piece("take-apart", "Splits a model into one piece for each part", [](Shot& s, const Item& i) {
    for (const std::string& path : take_apart(s, i.item)) say("Added " + path);
  });
  on_piece("part", "Turns a part of a model into a piece that moves with it",
           [](Shot& s, const Item& i) { say("Added " + add_part(s, i.item, i.word)); })
      ->add_option("part", o->word,
                   "Name of the part; “name/2” is a surface, “name:3” a side, “name^1” a hollow")
      ->required();
  on_one(app, "aim", "Aims a pour so that it passes a point", "pours", "A pour, by name or id", o,
         [](Shot& s, const Item& i) {
           About place;
           place.unit = Unit::length, place.low = -1e3, place.high = 1e3;
           aim_pour(s, i.item, std::get<Vec3d>(from_text(place, Vec3d{}, i.word, "Point")), i.frame);
         })
      ->add_option("point", o->word, "Point: right, up, towards the camera, for example “0 cm, 5 cm, 0 cm”")
      ->required();
  app.get_subcommand("aim")->add_option("--frame", o->frame,
                                        "Film frame at which a moving pour is aimed (default 1)");
  on_any(app, "duplicate", "Duplicates a piece, fluid, pour, force, material or light", o,
         [](Shot& s, const Item& i) { say("Added " + duplicate_item(s, i.item)); });
  command(app, "use", "Restores the settings of a run; look and camera stay as they are", "Run folder", o,
          [](Shot& s, const Item& i) { s = seen_as(open_run(i.item).shot, s); });
  app.add_subcommand("frame", "Moves the camera so that the whole set is in the picture")
      ->callback([o] { change_shot(o->file, frame_set); })
      ->add_option("file", o->file, "NAME.pour")
      ->required();
  std::vector<std::string> sets;
  for (const LightSet& s : light_sets()) sets.emplace_back(s.option.key);
  command(app, "lights", "Replaces the lights of a shot by a set of lights", "What the set lights best", o,
          [](Shot& s, const Item& i) {
            for (const LightSet& set : light_sets())
              if (i.item == set.option.key) s.look.lights = set.make();
          })
      ->get_option("item")
      ->check(CLI::IsMember(sets));
}
