// Commands that change the things that are in a shot.
#include <memory>

#include "door.h"
#include "run/arc.h"
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

/// A command on something in a shot; more options can be added to what it returns.
CLI::App* command(CLI::App& app, const char* name, const char* help, const char* what,
                  const std::shared_ptr<Item>& o, const std::function<void(Shot&, const Item&)>& change) {
  auto* command = app.add_subcommand(name, help);
  command->add_option("file", o->file, "NAME.pour")->required();
  command->add_option("item", o->item, what)->required();
  command->callback([o, change] { change_shot(o->file, [&](Shot& s) { change(s, *o); }); });
  return command;
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

}  // namespace

void add_item_commands(CLI::App& app) {
  const auto o = std::make_shared<Item>();
  const char *any = "For example pieces.word", *piece = "The id of a piece";
  command(app, "wrap", "Lets what flows meet a closed, simple hull around a model", piece, o, wrap)
      ->add_option("--by", o->by, "Its distance; 4mm if not said");
  command(app, "remove", "Takes a piece, a fluid, a pour, a material or a light out of a shot", any, o,
          [](Shot& s, const Item& i) { remove_item(s, i.item); });
  command(app, "rename", "Gives a piece, a fluid, a pour, a material or a light another name", any, o,
          [](Shot& s, const Item& i) { rename_item(s, i.item, i.word); })
      ->add_option("name", o->word, "The new name")
      ->required();
  command(app, "settle", "Sets a piece down on the floor, moves it to the middle, turns it up", piece, o,
          settle)
      ->add_option("how", o->words, "floor, centre, upright, in the order in which they are done")
      ->required()
      ->check(CLI::IsMember({"floor", "centre", "upright"}));
  command(app, "take-apart", "Makes a piece of each part of a model", piece, o, [](Shot& s, const Item& i) {
    for (const std::string& path : take_apart(s, i.item)) say("Added " + path);
  });
  command(app, "part", "Makes a piece of a part of a model, that moves with it", piece, o,
          [](Shot& s, const Item& i) { say("Added " + add_part(s, i.item, i.word)); })
      ->add_option("part", o->word,
                   "Its name, “name/2” for a surface, “name:3” for a side, “name^1” for a hollow")
      ->required();
  command(app, "aim", "Lets a pour come by a point", "The id of a pour", o,
          [](Shot& s, const Item& i) {
            About place;
            place.unit = Unit::length, place.low = -1e3, place.high = 1e3;
            aim_pour(s, i.item, std::get<Vec3d>(from_text(place, Vec3d{}, i.word, "Point")), i.frame);
          })
      ->add_option("point", o->word, "Right, up, forward: for example “0 cm, 5 cm, 0 cm”")
      ->required();
  app.get_subcommand("aim")->add_option("--frame", o->frame, "Of the film, where it moves; 1 if not said");
  command(app, "duplicate", "Puts a copy of a piece, a fluid, a pour, a material or a light after it", any, o,
          [](Shot& s, const Item& i) { say("Added " + duplicate_item(s, i.item)); });
  command(app, "use", "Sets a shot to what a run was made from; look and camera stay", "A run folder", o,
          [](Shot& s, const Item& i) { s = seen_as(open_run(i.item).shot, s); });
  std::vector<std::string> sets;
  for (const LightSet& s : light_sets()) sets.emplace_back(s.option.key);
  command(app, "lights", "Puts lights that stand together in place of those of a shot", "For what", o,
          [](Shot& s, const Item& i) {
            for (const LightSet& set : light_sets())
              if (i.item == set.option.key) s.look.lights = set.make();
          })
      ->get_option("item")
      ->check(CLI::IsMember(sets));
}
