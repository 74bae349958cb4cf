#include "shot/migrate.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <map>
#include <set>

#include "base/error.h"
#include "base/json.h"
#include "base/text.h"
#include "shot/clock.h"
#include "shot/force.h"

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
    throw shot_fault(where, filled("“{key}” is not a list.", {{"key", std::string(key)}}),
                     "Write it in brackets [ ].");
  for (const Json& e : list) {
    if (!e.is_object())
      throw shot_fault(where, filled("an entry of “{key}” has no id.", {{"key", std::string(key)}}),
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

// Version 2 had two lights, in the look.

/// Moves a setting, and its track if it has one, from one group to another.
void move_setting(Json& from, const char* key, Json& to, const char* new_key) {
  if (from.contains(key)) to[new_key] = from[key], from.erase(key);
  if (!from.contains("tracks") || !from["tracks"].is_object() || !from["tracks"].contains(key)) return;
  to["tracks"][new_key] = from["tracks"][key];
  from["tracks"].erase(key);
}

Json light_from_2(const char* id, const char* name, const char* kind) {
  Json light = Json::object();
  light["id"] = id, light["name"] = name, light["kind"] = kind;
  return light;
}

/// Defaults of the lights of version 2.
void usual(Json& look, const char* key, Json value) {
  if (!look.contains(key)) look[key] = std::move(value);
}

/// The other edge of a soft box whose one edge is seen at this angle.
double other_edge(const Json& angle, double share) {
  return 2 * std::atan(share * std::tan((angle.is_number() ? angle.get<double>() : 0.7) / 2));
}

Json from_2(const Json& shot) {
  Json out = shot;
  out["easy_pour"] = 3;
  Json look = shot.value("look", Json::object());
  if (!look.is_object()) return out;  // the reader says so
  usual(look, "key_strength", 0.65), usual(look, "key_color", {1.0, 0.94, 0.86});
  usual(look, "key_yaw", -49 * degree), usual(look, "key_pitch", 40 * degree);
  usual(look, "key_size", 50 * degree);
  usual(look, "rim_strength", 1.2), usual(look, "rim_color", {0.75, 0.9, 1.0});
  usual(look, "rim_yaw", 138 * degree), usual(look, "rim_pitch", 29 * degree);
  usual(look, "rim_size", 36 * degree), usual(look, "fill", 0.12);
  Json key = light_from_2("key", "Key light", "soft_box"), rim = light_from_2("rim", "Rim light", "soft_box"),
       room = light_from_2("room", "Room", "room");
  const Json &fill = look["fill"], &strength = look["key_strength"];
  room["strength"] =
      fill.is_number() && strength.is_number() ? Json(fill.get<double>() * strength.get<double>()) : fill;
  room["color"] = look["key_color"];
  key["height"] = other_edge(look["key_size"], 0.75), rim["width"] = other_edge(look["rim_size"], 0.4);
  look.erase("fill");
  if (look.contains("tracks") && look["tracks"].is_object()) look["tracks"].erase("fill");
  move_setting(look, "key_size", key, "width"), move_setting(look, "rim_size", rim, "height");
  for (const char* name : {"strength", "color", "yaw", "pitch"})
    move_setting(look, ("key_" + std::string(name)).c_str(), key, name),
        move_setting(look, ("rim_" + std::string(name)).c_str(), rim, name);
  out["look"] = look;
  out["lights"] = Json::array({key, rim, room});
  Json camera = shot.value("camera", Json::object());
  if (camera.is_object()) usual(camera, "shutter", 0), out["camera"] = camera;
  return out;
}

// In version 3 a pour of smoke had the colours of its piece or not, and liquid took no notice of patches.
Json from_3(const Json& shot, const std::string& where) {
  Json out = shot;
  out["easy_pour"] = 4;
  if (!shot.contains("pours")) return out;
  std::set<Json> liquids;
  for (const Json& f : entries(shot, "fluids", where))
    if (f.value("kind", Json()) == "liquid") liquids.insert(f.value("id", Json()));
  out["pours"] = Json::array();
  for (const Json& p : entries(shot, "pours", where)) {
    Json pour = without(p, {"piece_colors"});
    if (p.contains("piece_colors")) pour["colors"] = p["piece_colors"] == true ? "piece" : "fluid";
    usual(pour, "patchiness", 0.5);
    if (liquids.contains(p.value("fluid", Json()))) pour["patchiness"] = 0.0;
    out["pours"].push_back(pour);
  }
  return out;
}

// Version 5 says which way a pour's surface faces and where what came in is from; before, nothing did.
Json from_4(Json shot) {
  shot["easy_pour"] = 5;
  return shot;
}

// In version 5 smoke took nothing of its source's motion along, and each piece was made of a named material
// with a colour and a roughness of its own.

void smoke_without_motion(Json& shot, const std::string& where) {
  std::set<Json> smokes;
  for (const Json& f : entries(shot, "fluids", where))
    if (f.value("kind", Json("smoke")) == "smoke") smokes.insert(f.value("id", Json()));
  if (!shot.contains("pours")) return;
  for (Json& p : shot["pours"])
    if (p.is_object() && smokes.contains(p.value("fluid", Json()))) {
      p["inherit"] = 0.0, p["spread"] = 0.0;
      if (p.contains("tracks") && p["tracks"].is_object())
        for (const char* key : {"inherit", "spread"}) p["tracks"].erase(key);
    }
}

/// Takes it out of the piece; null where that looks as the look says.
Json material_from_5(Json& piece, const Json& shot) {
  Json material = Json::object();
  material["kind"] = piece.value("material", Json("as_look"));
  for (const char* key : {"color", "roughness"}) move_setting(piece, key, material, key);
  piece.erase("material");
  if (piece.contains("tracks") && piece["tracks"].is_object() && piece["tracks"].empty())
    piece.erase("tracks");
  if (material["kind"] != "as_look") return material;
  constexpr double usual_roughness = 0.45;
  if (!material.contains("roughness") || material["roughness"] == usual_roughness) return {};
  material["kind"] = "plastic", material["index"] = 1.5;
  const Json look = shot.value("look", Json::object());
  material["color"] = look.is_object() && look.contains("solid") ? look["solid"] : Json{0.055, 0.06, 0.062};
  return material;
}

Json from_5(const Json& shot, const std::string& where) {
  Json out = shot;
  out["easy_pour"] = 6;
  smoke_without_motion(out, where);
  if (!shot.contains("pieces")) return out;
  out["pieces"] = out["materials"] = Json::array();
  std::map<std::string, int> count;
  for (Json piece : entries(shot, "pieces", where)) {
    Json material = material_from_5(piece, shot);
    out["pieces"].push_back(piece);
    if (material.is_null()) continue;
    // Pieces of one make share it.
    const auto same = [&](Json other) {
      for (const char* key : {"id", "name"}) other.erase(key);
      return other == material;
    };
    if (const auto kept = std::find_if(out["materials"].begin(), out["materials"].end(), same);
        kept != out["materials"].end()) {
      material["id"] = (*kept)["id"];
    } else {
      const std::string kind =
          material["kind"].is_string() ? material["kind"].get<std::string>() : "material";
      const int n = ++count[kind];
      material["id"] = n > 1 ? kind + "_" + std::to_string(n) : kind;
      material["name"] = piece.value("name", Json("Material"));
      out["materials"].push_back(material);
    }
    out["pieces"].back()["material"] = material["id"];
  }
  return out;
}

// Version 7 keeps letters, and numbers that were out of range, beside the items: what came before has
// neither.

// In version 7 windows, fills and keys were on frames, those of what is filmed at the speed of playback. What
// is no number stays as it is, for the reader to say.

/// From frames to seconds.
struct Seconds {
  FrameRate rate;
  Json span(const Json& frames) const {
    return frames.is_number() ? Json(frames.get<double>() * rate.den / rate.num) : frames;
  }
  Json at(const Json& frame) const { return frame.is_number() ? span(frame.get<double>() - 1) : frame; }
};

void keys_from_7(Json& item, const Seconds& seconds) {
  if (!item.is_object() || !item.contains("tracks") || !item["tracks"].is_object()) return;
  for (auto& [name, track] : item["tracks"].items()) {
    if (!track.is_object() || !track.contains("keys") || !track["keys"].is_array()) continue;
    for (Json& key : track["keys"]) {
      if (!key.is_object() || !key.contains("frame")) continue;
      Json timed{{"time", seconds.at(key["frame"])}};
      for (const auto& [member, value] : key.items())
        if (member != "frame") timed[member] = value;
      key = timed;
    }
  }
}

void pour_from_7(Json& pour, const Seconds& seconds) {
  if (!pour.is_object()) return;
  if (pour.contains("windows") && pour["windows"].is_array())
    for (Json& w : pour["windows"])
      if (w.is_array() && w.size() == 2) w = {seconds.at(w[0]), seconds.span(w[1])};
  if (pour.contains("seed_place") && pour["seed_place"] == "one_side") pour["seed_place"] = "left";
  if (pour.contains("pulse_period")) pour["pulse_period"] = seconds.span(pour["pulse_period"]);
  if (pour.contains("fill_at")) pour["fill_at"] = pour["fill_at"] == 0 ? Json() : seconds.at(pour["fill_at"]);
}

/// “forces.gravity@48” as it is called now.
void path_from_7(Json& found, const Seconds& seconds) {
  if (!found.is_object() || !found.contains("setting") || !found["setting"].is_string()) return;
  const std::string path = found["setting"];
  const size_t at = path.find('@');
  if (at == std::string::npos) return;
  char* end = nullptr;
  const double frame = std::strtod(path.c_str() + at + 1, &end);
  if (end && !*end) found["setting"] = key_path(path.substr(0, at), seconds.at(frame).get<double>());
}

Json from_7(Json shot) {
  shot["easy_pour"] = 8;
  double fps = Film().frame_rate;
  if (shot.contains("film") && shot["film"].is_object() && shot["film"].contains("fps") &&
      shot["film"]["fps"].is_number())
    fps = shot["film"]["fps"].get<double>();
  const Seconds seconds{exact_rate(fps >= 1 && fps <= 1000 ? fps : Film().frame_rate)};
  for (auto& [name, group] : shot.items()) {
    if (group.is_array())
      for (Json& item : group) {
        keys_from_7(item, seconds);
        if (name == "pours") pour_from_7(item, seconds);
        if (name == "out_of_range") path_from_7(item, seconds);
      }
    keys_from_7(group, seconds);
  }
  return shot;
}

// Up to version 9 forces were one group; each is an item since. Names before version 9 are still in it.

Json from_9(const Json& shot) {
  Json out = without(shot, {"forces"});
  out["easy_pour"] = 10;
  if (!shot.contains("forces")) return out;
  const Json& group = shot["forces"];
  out["forces"] = Json::array();
  if (!group.is_object()) {
    out["forces"] = group;  // for the reader to say
    return out;
  }
  for (const Force& f : usual_forces())
    out["forces"].push_back({{"id", f.id}, {"name", f.name}, {"kind", f.id}});
  // What is no setting any more is for the reader to name.
  const auto place = [&](const std::string& key) {
    const std::string path = force_path_now("forces." + key);
    const size_t id = path.find('.') + 1, dot = path.rfind('.');
    return path.empty() ? std::pair<std::string, std::string>(out["forces"][0]["id"], key)
                        : std::pair(path.substr(id, dot - id), path.substr(dot + 1));
  };
  const auto item = [&](const std::string& id) -> Json& {
    return *std::find_if(out["forces"].begin(), out["forces"].end(),
                         [&](const Json& f) { return f["id"] == id; });
  };
  for (const auto& [key, value] : group.items()) {
    if (key == "tracks" && value.is_object()) {
      for (const auto& [of, track] : value.items()) item(place(of).first)["tracks"][place(of).second] = track;
    } else {
      item(place(key).first)[place(key).second] = value;
    }
  }
  return out;
}

// Up to version 10 a smoke had the settings of a liquid, too, without effect.

Json from_10(Json shot) {
  shot["easy_pour"] = 11;
  if (!shot.contains("fluids") || !shot["fluids"].is_array()) return shot;
  for (Json& f : shot["fluids"]) {
    if (!f.is_object() || (f.contains("kind") && f["kind"] != "smoke")) continue;
    for (const Row<Liquid>& row : Liquid::settings())
      for (const char* key : {row.key, row.formerly}) {
        if (std::string_view(key) == "color") continue;
        f.erase(key);
        if (f.contains("tracks") && f["tracks"].is_object()) f["tracks"].erase(key);
      }
  }
  return shot;
}

}  // namespace

Json brought_up_to_date(Json shot, const std::string& where) {
  if (shot["easy_pour"] == 1) shot = from_1(shot, where);
  if (shot["easy_pour"] == 2) shot = from_2(shot);
  if (shot["easy_pour"] == 3) shot = from_3(shot, where);
  if (shot["easy_pour"] == 4) shot = from_4(shot);
  if (shot["easy_pour"] == 5) shot = from_5(shot, where);
  if (shot["easy_pour"] == 6) shot["easy_pour"] = 7;
  if (shot["easy_pour"] == 7) shot = from_7(std::move(shot));
  // Version 9 gave settings other names, which the reader knows (About::formerly).
  if (shot["easy_pour"] == 8) shot["easy_pour"] = 9;
  if (shot["easy_pour"] == 9) shot = from_9(shot);
  if (shot["easy_pour"] == 10) shot = from_10(std::move(shot));
  return shot;
}

}  // namespace pour
