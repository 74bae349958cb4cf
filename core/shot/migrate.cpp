#include "shot/migrate.h"

#include <map>
#include <set>

#include "base/error.h"
#include "base/json.h"

namespace pour {
namespace {

/// One object without some of its members, if it has them.
Json without(const Json& from, const std::set<std::string>& keys) {
  Json out = Json::object();
  for (const auto& [key, value] : from.items())
    if (!keys.contains(key)) out[key] = value;
  return out;
}

/// The entries of a list, if it is one.
std::vector<Json> entries(const Json& shot, const char* key, const std::string& where) {
  std::vector<Json> out;
  if (!shot.contains(key)) return out;
  const Json& list = shot[key];
  if (!list.is_array())
    throw shot_fault(where, "“" + std::string(key) + "” is not a list.", "Write it in brackets [ ].");
  for (const Json& e : list) {
    if (!e.is_object())
      throw shot_fault(where, "an entry of “" + std::string(key) + "” has no id.",
                       "Give it one, for example \"id\": \"word\".");
    out.push_back(e);
  }
  return out;
}

// Version 1 kept the measures of all kinds in each piece, one part a piece, and what flows together with what
// pours it.

Json piece_from_1(const Json& piece) {
  static const std::map<std::string, std::set<std::string>> measures{
      {"lettering", {"text", "font", "letter_size", "depth", "bevel", "spacing"}},
      {"ball", {"radius"}},
      {"box", {"size"}}};
  const Json kind = piece.value("kind", Json("lettering"));
  std::set<std::string> drop{"part"};
  if (kind.is_string() && measures.contains(kind.get<std::string>()))
    for (const auto& [other, keys] : measures)
      if (other != kind) drop.insert(keys.begin(), keys.end());
  Json out = without(piece, drop);
  out["kind"] = kind;
  const Json part = piece.value("part", Json("holds"));
  const std::set<std::string> parts{"holds", "blocks", "shows", "guides"};
  if (!part.is_string() || !parts.contains(part.get<std::string>())) {
    out["part"] = part;  // no such setting any more, and no such part before
    return out;
  }
  out["holds"] = part == "holds", out["blocks"] = part == "blocks", out["shows"] = part != "guides";
  return out;
}

Json fluid_from_1(const Json& smoke) {
  Json out = Json::object();
  for (const char* key : {"id", "name", "color"})
    if (smoke.contains(key)) out[key] = smoke[key];
  return out;
}

Json pour_from_1(const Json& smoke) {
  Json out = without(smoke, {"color", "pour"});
  if (smoke.contains("id")) out["fluid"] = smoke["id"];
  if (smoke.value("from", Json()) == "every_part") out["from"] = "every_body";
  if (smoke.contains("pour")) out["windows"] = Json::array({smoke["pour"]});
  return out;
}

Json from_1(const Json& shot, const std::string& where) {
  Json out = without(shot, {"pieces", "smokes"});
  out["easy_pour"] = 2;
  out["pieces"] = out["fluids"] = out["pours"] = Json::array();
  for (const Json& p : entries(shot, "pieces", where)) out["pieces"].push_back(piece_from_1(p));
  for (const Json& s : entries(shot, "smokes", where))
    out["fluids"].push_back(fluid_from_1(s)), out["pours"].push_back(pour_from_1(s));
  return out;
}

}  // namespace

Json brought_up_to_date(Json shot, const std::string& where) {
  if (shot["easy_pour"] == 1) shot = from_1(shot, where);
  return shot;
}

}  // namespace pour
