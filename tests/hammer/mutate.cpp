// Ways to break a text.
#include <cmath>
#include <limits>

#include "base/json.h"
#include "hammer.h"

namespace hammer {
namespace {

using pour::Json;

constexpr const char* large_mark = "@too-large@";  // a number that no double holds is put in its place
constexpr const char* twice_mark = "@twice@";

void collect(Json& j, std::vector<Json*>& out) {
  out.push_back(&j);
  if (j.is_structured())
    for (Json& child : j) collect(child, out);
}

Json number(Luck& luck, double old) {
  using L = std::numeric_limits<double>;
  switch (luck.below(8)) {
    case 0:
      return luck.of(std::vector<double>{0, -0.0, 1, -1, 0.5, 2, 3, 7, 8, 100, 1000, 1e5, 1e6});
    case 1:
      return luck.of(
          std::vector<double>{L::max(), -L::max(), L::min(), L::denorm_min(), 1e-300, 1e300, 1e30, -1e30});
    case 2:
      return luck.of(std::vector<Json>{2147483647, 2147483648, -2147483649, 4294967296, 4294967297,
                                       9223372036854775807, 18446744073709551615u});
    case 3:
      return large_mark;
    case 4:
      return old * (1 + (luck.one_in(2) ? 1e-7 : -1e-7));
    case 5:
      return old * std::pow(10, luck.between(-6, 6));
    case 6:
      return std::round(old * luck.between(0, 3));
    default:
      return old * luck.between(-2, 2);
  }
}

Json word(Luck& luck) {
  static const std::vector<std::string> words{"",
                                              " ",
                                              "holds",
                                              "draft",
                                              "every_part",
                                              "piece",
                                              "word",
                                              "mint",
                                              "true",
                                              "null",
                                              "1",
                                              "\x1b[31m",
                                              "\n\n\n",
                                              "水",
                                              "سلام",
                                              "é̂",
                                              "👩‍👩‍👧",
                                              std::string("\0", 1),
                                              "../../../etc",
                                              "/dev/full",
                                              "C:\\",
                                              "%s%n",
                                              "League Spartan",
                                              "Inter Bold",
                                              "W",
                                              "iiii",
                                              "OOOOOOOOOOOOOOOO",
                                              "ﷺ"};
  if (luck.one_in(8))
    return std::string(1 + luck.below(luck.one_in(4) ? 200000 : 600), char('a' + luck.below(26)));
  return luck.of(words);
}

Json anything(Luck& luck) {
  switch (luck.below(7)) {
    case 0:
      return nullptr;
    case 1:
      return luck.one_in(2);
    case 2:
      return Json::array();
    case 3:
      return Json::object();
    case 4:
      return word(luck);
    case 5: {
      Json deep = 1;
      for (size_t i = luck.below(200); i > 0; --i) deep = luck.one_in(2) ? Json{deep} : Json{{"a", deep}};
      return deep;
    }
    default:
      return number(luck, 1);
  }
}

void change_one(Json& root, Luck& luck) {
  std::vector<Json*> all;
  collect(root, all);
  Json& j = *all[luck.below(all.size())];
  if (luck.one_in(12)) {
    j = anything(luck);
  } else if (j.is_number()) {
    j = number(luck, j.get<double>());
  } else if (j.is_boolean()) {
    j = !j.get<bool>();
  } else if (j.is_string()) {
    j = word(luck);
  } else if (j.is_array() && !j.empty()) {
    const size_t at = luck.below(j.size()), times = luck.one_in(10) ? 1 + luck.below(1200) : 1;
    const Json copy = j[at];
    if (luck.one_in(3))
      j.erase(at);
    else
      for (size_t i = 0; i < times; ++i) {
        j.push_back(copy);
        if (j.back().is_object() && !luck.one_in(5)) j.back()["id"] = "copy" + std::to_string(i);
      }
  } else if (j.is_object() && !j.empty()) {
    auto at = j.begin();
    std::advance(at, luck.below(j.size()));
    const std::string key = at.key();
    switch (luck.below(4)) {
      case 0:
        j.erase(key);
        break;
      case 1:
        j[key + "x"] = *at;
        break;
      case 2:
        j[word(luck).get<std::string>()] = anything(luck);
        break;
      default:
        j[twice_mark + key] = anything(luck);
    }
  }
}

void replace_all(std::string& text, const std::string& from, const std::string& to) {
  for (size_t at = 0; (at = text.find(from, at)) != std::string::npos; at += to.size())
    text.replace(at, from.size(), to);
}

}  // namespace

std::string broken_bytes(std::string text, Luck& luck) {
  for (size_t times = 1 + luck.below(3); times > 0 && !text.empty(); --times) {
    const size_t at = luck.below(text.size());
    switch (luck.below(5)) {
      case 0:
        text[at] = char(text[at] ^ (1 << luck.below(8)));
        break;
      case 1:
        text.erase(at, 1 + luck.below(luck.one_in(3) ? text.size() : 8));
        break;
      case 2:
        text.insert(at, text.substr(luck.below(text.size()), luck.below(200)));
        break;
      case 3:
        text.insert(at, 1, char(luck.below(256)));
        break;
      default:
        text.resize(at);
    }
  }
  return text;
}

std::string broken_json(const std::string& text, Luck& luck) {
  if (luck.one_in(4)) return broken_bytes(text, luck);
  Json j = Json::parse(text);
  for (size_t times = luck.one_in(2) ? 1 : 1 + luck.below(4); times > 0; --times) change_one(j, luck);
  std::string out = j.dump(1, ' ', false, Json::error_handler_t::replace);
  replace_all(out, std::string("\"") + large_mark + "\"", luck.one_in(2) ? "1e999" : "-1e400");
  replace_all(out, twice_mark, "");
  return out;
}

}  // namespace hammer
