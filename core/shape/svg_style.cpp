#include "shape/svg_style.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <sstream>
#include <string_view>

#include "base/srgb.h"
#include "base/text.h"
#include "shape/svg_path.h"

namespace pour {
namespace {

/// The parts between the separators that are not empty.
std::vector<std::string> trimmed_parts(const std::string& text, char at) {
  std::vector<std::string> out;
  std::stringstream in(text);
  for (std::string part; std::getline(in, part, at);)
    if (part = trimmed(part); !part.empty()) out.push_back(part);
  return out;
}

std::vector<std::pair<std::string, std::string>> declarations(const std::string& text) {
  std::vector<std::pair<std::string, std::string>> out;
  for (const std::string& one : trimmed_parts(text, ';'))
    if (const size_t colon = one.find(':'); colon != std::string::npos) {
      std::string value = trimmed(one.substr(colon + 1));
      if (const size_t bang = value.find('!'); bang != std::string::npos)
        value = trimmed(value.substr(0, bang));
      out.emplace_back(trimmed(one.substr(0, colon)), value);
    }
  return out;
}

float linear(double srgb) {  // IEC 61966-2-1
  srgb = std::clamp(srgb, 0.0, 1.0);
  return float(from_srgb(srgb));
}

Vec3f from_hex(unsigned v) {
  return {linear((v >> 16 & 255) / 255.0), linear((v >> 8 & 255) / 255.0), linear((v & 255) / 255.0)};
}

struct NamedColor {
  const char* name;
  unsigned value;
};
/// CSS Color Module Level 3 (W3C 2018), §4.3.
constexpr NamedColor named_colors[] = {{"aliceblue", 0xf0f8ff},
                                       {"antiquewhite", 0xfaebd7},
                                       {"aqua", 0x00ffff},
                                       {"aquamarine", 0x7fffd4},
                                       {"azure", 0xf0ffff},
                                       {"beige", 0xf5f5dc},
                                       {"bisque", 0xffe4c4},
                                       {"black", 0x000000},
                                       {"blanchedalmond", 0xffebcd},
                                       {"blue", 0x0000ff},
                                       {"blueviolet", 0x8a2be2},
                                       {"brown", 0xa52a2a},
                                       {"burlywood", 0xdeb887},
                                       {"cadetblue", 0x5f9ea0},
                                       {"chartreuse", 0x7fff00},
                                       {"chocolate", 0xd2691e},
                                       {"coral", 0xff7f50},
                                       {"cornflowerblue", 0x6495ed},
                                       {"cornsilk", 0xfff8dc},
                                       {"crimson", 0xdc143c},
                                       {"cyan", 0x00ffff},
                                       {"darkblue", 0x00008b},
                                       {"darkcyan", 0x008b8b},
                                       {"darkgoldenrod", 0xb8860b},
                                       {"darkgray", 0xa9a9a9},
                                       {"darkgreen", 0x006400},
                                       {"darkgrey", 0xa9a9a9},
                                       {"darkkhaki", 0xbdb76b},
                                       {"darkmagenta", 0x8b008b},
                                       {"darkolivegreen", 0x556b2f},
                                       {"darkorange", 0xff8c00},
                                       {"darkorchid", 0x9932cc},
                                       {"darkred", 0x8b0000},
                                       {"darksalmon", 0xe9967a},
                                       {"darkseagreen", 0x8fbc8f},
                                       {"darkslateblue", 0x483d8b},
                                       {"darkslategray", 0x2f4f4f},
                                       {"darkslategrey", 0x2f4f4f},
                                       {"darkturquoise", 0x00ced1},
                                       {"darkviolet", 0x9400d3},
                                       {"deeppink", 0xff1493},
                                       {"deepskyblue", 0x00bfff},
                                       {"dimgray", 0x696969},
                                       {"dimgrey", 0x696969},
                                       {"dodgerblue", 0x1e90ff},
                                       {"firebrick", 0xb22222},
                                       {"floralwhite", 0xfffaf0},
                                       {"forestgreen", 0x228b22},
                                       {"fuchsia", 0xff00ff},
                                       {"gainsboro", 0xdcdcdc},
                                       {"ghostwhite", 0xf8f8ff},
                                       {"gold", 0xffd700},
                                       {"goldenrod", 0xdaa520},
                                       {"gray", 0x808080},
                                       {"green", 0x008000},
                                       {"greenyellow", 0xadff2f},
                                       {"grey", 0x808080},
                                       {"honeydew", 0xf0fff0},
                                       {"hotpink", 0xff69b4},
                                       {"indianred", 0xcd5c5c},
                                       {"indigo", 0x4b0082},
                                       {"ivory", 0xfffff0},
                                       {"khaki", 0xf0e68c},
                                       {"lavender", 0xe6e6fa},
                                       {"lavenderblush", 0xfff0f5},
                                       {"lawngreen", 0x7cfc00},
                                       {"lemonchiffon", 0xfffacd},
                                       {"lightblue", 0xadd8e6},
                                       {"lightcoral", 0xf08080},
                                       {"lightcyan", 0xe0ffff},
                                       {"lightgoldenrodyellow", 0xfafad2},
                                       {"lightgray", 0xd3d3d3},
                                       {"lightgreen", 0x90ee90},
                                       {"lightgrey", 0xd3d3d3},
                                       {"lightpink", 0xffb6c1},
                                       {"lightsalmon", 0xffa07a},
                                       {"lightseagreen", 0x20b2aa},
                                       {"lightskyblue", 0x87cefa},
                                       {"lightslategray", 0x778899},
                                       {"lightslategrey", 0x778899},
                                       {"lightsteelblue", 0xb0c4de},
                                       {"lightyellow", 0xffffe0},
                                       {"lime", 0x00ff00},
                                       {"limegreen", 0x32cd32},
                                       {"linen", 0xfaf0e6},
                                       {"magenta", 0xff00ff},
                                       {"maroon", 0x800000},
                                       {"mediumaquamarine", 0x66cdaa},
                                       {"mediumblue", 0x0000cd},
                                       {"mediumorchid", 0xba55d3},
                                       {"mediumpurple", 0x9370db},
                                       {"mediumseagreen", 0x3cb371},
                                       {"mediumslateblue", 0x7b68ee},
                                       {"mediumspringgreen", 0x00fa9a},
                                       {"mediumturquoise", 0x48d1cc},
                                       {"mediumvioletred", 0xc71585},
                                       {"midnightblue", 0x191970},
                                       {"mintcream", 0xf5fffa},
                                       {"mistyrose", 0xffe4e1},
                                       {"moccasin", 0xffe4b5},
                                       {"navajowhite", 0xffdead},
                                       {"navy", 0x000080},
                                       {"oldlace", 0xfdf5e6},
                                       {"olive", 0x808000},
                                       {"olivedrab", 0x6b8e23},
                                       {"orange", 0xffa500},
                                       {"orangered", 0xff4500},
                                       {"orchid", 0xda70d6},
                                       {"palegoldenrod", 0xeee8aa},
                                       {"palegreen", 0x98fb98},
                                       {"paleturquoise", 0xafeeee},
                                       {"palevioletred", 0xdb7093},
                                       {"papayawhip", 0xffefd5},
                                       {"peachpuff", 0xffdab9},
                                       {"peru", 0xcd853f},
                                       {"pink", 0xffc0cb},
                                       {"plum", 0xdda0dd},
                                       {"powderblue", 0xb0e0e6},
                                       {"purple", 0x800080},
                                       {"red", 0xff0000},
                                       {"rosybrown", 0xbc8f8f},
                                       {"royalblue", 0x4169e1},
                                       {"saddlebrown", 0x8b4513},
                                       {"salmon", 0xfa8072},
                                       {"sandybrown", 0xf4a460},
                                       {"seagreen", 0x2e8b57},
                                       {"seashell", 0xfff5ee},
                                       {"sienna", 0xa0522d},
                                       {"silver", 0xc0c0c0},
                                       {"skyblue", 0x87ceeb},
                                       {"slateblue", 0x6a5acd},
                                       {"slategray", 0x708090},
                                       {"slategrey", 0x708090},
                                       {"snow", 0xfffafa},
                                       {"springgreen", 0x00ff7f},
                                       {"steelblue", 0x4682b4},
                                       {"tan", 0xd2b48c},
                                       {"teal", 0x008080},
                                       {"thistle", 0xd8bfd8},
                                       {"tomato", 0xff6347},
                                       {"turquoise", 0x40e0d0},
                                       {"violet", 0xee82ee},
                                       {"wheat", 0xf5deb3},
                                       {"white", 0xffffff},
                                       {"whitesmoke", 0xf5f5f5},
                                       {"yellow", 0xffff00},
                                       {"yellowgreen", 0x9acd32}};

double share(const std::string& text) {  // “0.5” or “50%”
  const auto v = parse_numbers(text);
  if (v.empty()) return 1;
  return std::clamp(text.back() == '%' ? v[0] / 100 : v[0], 0.0, 1.0);
}

}  // namespace

double svg_length(const char* text, double whole, double otherwise) {
  const auto v = parse_numbers(text);
  if (v.empty()) return otherwise;
  const std::string t = trimmed(text);
  size_t unit = t.size();
  while (unit > 0 && (std::isalpha(static_cast<unsigned char>(t[unit - 1])) || t[unit - 1] == '%')) --unit;
  const std::string u = t.substr(unit);
  // CSS: 96 px an inch.
  const double factor = u == "mm"   ? 96 / 25.4
                        : u == "cm" ? 96 / 2.54
                        : u == "in" ? 96
                        : u == "pt" ? 96.0 / 72
                        : u == "pc" ? 16
                        : u == "em" ? 16
                        : u == "ex" ? 8
                        : u == "%"  ? whole / 100
                                    : 1;
  return v[0] * factor;
}

std::optional<Vec3f> svg_color(const std::string& given) {
  std::string text = trimmed(given);
  std::transform(text.begin(), text.end(), text.begin(),
                 [](unsigned char c) { return char(std::tolower(c)); });
  if (text.starts_with('#')) {
    if (text.find_first_not_of("0123456789abcdef", 1) != std::string::npos) return std::nullopt;
    const unsigned v = unsigned(std::strtoul(text.substr(1).c_str(), nullptr, 16));
    if (text.size() == 7) return from_hex(v);
    if (text.size() == 9) return from_hex(v >> 8);
    const unsigned three = text.size() == 5 ? v >> 4 : v;
    if (text.size() == 4 || text.size() == 5)
      return from_hex((three >> 8 & 15) * 0x110000 + (three >> 4 & 15) * 0x1100 + (three & 15) * 0x11);
    return std::nullopt;
  }
  if (text.starts_with("rgb")) {
    const size_t open = text.find('('), close = text.find(')');
    if (open == std::string::npos || close == std::string::npos) return std::nullopt;
    std::string inside = text.substr(open + 1, close - open - 1);
    const bool percent = inside.find('%') != std::string::npos;
    std::replace(inside.begin(), inside.end(), '%', ' ');
    const auto v = parse_numbers(inside);
    if (v.size() < 3) return std::nullopt;
    const double whole = percent ? 100 : 255;
    return Vec3f{linear(v[0] / whole), linear(v[1] / whole), linear(v[2] / whole)};
  }
  for (const NamedColor& c : named_colors)
    if (text == c.name) return from_hex(c.value);
  return std::nullopt;
}

SvgStyles::SvgStyles(const pugi::xml_document& doc, double wide, double high) {
  struct Walker : pugi::xml_tree_walker {
    std::string css;
    std::map<std::string, pugi::xml_node> gradients;
    bool for_each(pugi::xml_node& n) override {
      const std::string_view name = n.name();
      if (name == "style")
        for (const pugi::xml_node& t : n.children()) css += t.value();
      if (name == "linearGradient" || name == "radialGradient") gradients[n.attribute("id").value()] = n;
      return true;
    }
  } walker;
  const_cast<pugi::xml_document&>(doc).traverse(walker);
  read_rules(walker.css);
  const auto other = [&](const std::string& id) {
    const auto it = walker.gradients.find(id);
    return it == walker.gradients.end() ? pugi::xml_node() : it->second;
  };
  for (const auto& [id, node] : walker.gradients)
    if (auto g = std::make_shared<SvgGradient>(node, other, wide, high); g->any())
      gradients_[id] = {g->mean(), g};
}

SvgStop svg_stop(const pugi::xml_node& stop) {
  SvgStop out;
  std::string color = stop.attribute("stop-color").as_string("black");
  out.opacity = share(stop.attribute("stop-opacity").as_string("1"));
  out.offset = share(stop.attribute("offset").as_string("0"));
  for (const auto& [key, value] : declarations(stop.attribute("style").value())) {
    if (key == "stop-color") color = value;
    if (key == "stop-opacity") out.opacity = share(value);
  }
  out.color = svg_color(color).value_or(Vec3f{});
  return out;
}

void SvgStyles::read_rules(std::string css) {
  for (size_t open = css.find("/*"); open != std::string::npos; open = css.find("/*")) {
    const size_t close = css.find("*/", open);
    css.erase(open, close == std::string::npos ? std::string::npos : close + 2 - open);
  }
  for (size_t at = 0; at < css.size();) {
    const size_t open = css.find('{', at);
    if (open == std::string::npos) break;
    const size_t close = std::min(css.find('}', open), css.size());
    const std::string head = trimmed(css.substr(at, open - at));
    const auto says = declarations(css.substr(open + 1, close - open - 1));
    at = close + 1;
    if (head.starts_with('@')) continue;  // for other media, or more than this program knows
    for (const std::string& selector : trimmed_parts(head, ',')) {
      if (selector.find_first_of(" >+~:[") != std::string::npos) continue;  // of what stands where
      Rule r;
      r.says = says;
      std::string word;
      char kind = 'e';
      const auto put = [&] {
        if (kind == 'e' && word != "*") r.element = word;
        if (kind == '.') r.classes.push_back(word);
        if (kind == '#') r.id = word;
        word.clear();
      };
      for (const char c : selector)
        if (c == '.' || c == '#')
          put(), kind = c;
        else
          word += c;
      put();
      r.weight = (r.id.empty() ? 0 : 10000) + 100 * int(r.classes.size()) + !r.element.empty();
      rules_.push_back(std::move(r));
    }
  }
  std::stable_sort(rules_.begin(), rules_.end(),
                   [](const Rule& a, const Rule& b) { return a.weight < b.weight; });
}

std::optional<SvgPaint> SvgStyles::paint(const std::string& value, const Vec3f& current) const {
  const auto plain = [](const std::string& text) -> std::optional<SvgPaint> {
    if (const auto color = svg_color(text)) return SvgPaint{*color, nullptr};
    return std::nullopt;
  };
  if (value == "none" || value == "transparent") return std::nullopt;
  if (value == "currentColor" || value == "currentcolor") return SvgPaint{current, nullptr};
  if (value.starts_with("url(")) {
    const size_t hash = value.find('#'), close = value.find(')');
    if (hash != std::string::npos && close != std::string::npos && hash < close) {
      std::string id = value.substr(hash + 1, close - hash - 1);
      std::erase_if(id, [](char c) { return c == '"' || c == '\''; });
      if (const auto it = gradients_.find(id); it != gradients_.end()) return it->second;
    }
    return plain(value.substr(std::min(value.size(), close + 1)));  // what it falls back to
  }
  return plain(value);
}

void SvgStyles::set(SvgStyle& s, const std::string& key, const std::string& value, const SvgStyle& outer,
                    double size) const {
  if (value.empty() || value == "inherit") return;
  const auto known = [&](std::optional<SvgPaint>& into) {
    if (value == "none" || value == "transparent" || value.starts_with("url(") ||
        value.starts_with("current") || svg_color(value))
      into = paint(value, s.color);
  };
  if (key == "color") s.color = svg_color(value).value_or(s.color);
  if (key == "fill") known(s.fill);
  if (key == "stroke") known(s.stroke);
  if (key == "fill-rule") s.even_odd = value == "evenodd";
  if (key == "fill-opacity") s.fill_opacity = share(value);
  if (key == "stroke-opacity") s.stroke_opacity = share(value);
  if (key == "opacity") s.opacity *= share(value);
  if (key == "display" && value == "none") s.shown = false;
  if (key == "visibility") s.shown = value == "visible" && outer.shown;
  if (key == "stroke-width") s.stroke_width = svg_length(value.c_str(), size, s.stroke_width);
  if (key == "stroke-miterlimit") s.miter_limit = svg_length(value.c_str(), 1, 4);
  if (key == "stroke-dashoffset") s.dash_offset = svg_length(value.c_str(), size, 0);
  if (key == "stroke-linecap")
    s.cap = value == "round" ? LineCap::round : value == "square" ? LineCap::square : LineCap::butt;
  if (key == "stroke-linejoin")
    s.join = value == "round" ? LineJoin::round : value == "bevel" ? LineJoin::bevel : LineJoin::miter;
  if (key == "stroke-dasharray") {
    s.dashes = value == "none" ? std::vector<double>() : parse_numbers(value);
    if (s.dashes.size() % 2) s.dashes.insert(s.dashes.end(), s.dashes.begin(), s.dashes.end());
    double sum = 0;
    for (const double d : s.dashes) sum += d;
    if (!(sum > 0) || std::any_of(s.dashes.begin(), s.dashes.end(), [](double d) { return d < 0; }))
      s.dashes.clear();
  }
}

SvgStyle SvgStyles::of(const pugi::xml_node& node, const SvgStyle& outer, double size) const {
  SvgStyle s = outer;
  const auto one = [&](const std::string& key, const std::string& value) { set(s, key, value, outer, size); };
  // Colour first: others refer to it.
  if (const auto c = node.attribute("color")) one("color", c.value());
  for (const pugi::xml_attribute& a : node.attributes()) one(a.name(), trimmed(a.value()));
  const std::string element = node.name(), id = node.attribute("id").value();
  std::vector<std::string> classes;
  std::stringstream in(node.attribute("class").value());
  for (std::string c; in >> c;) classes.push_back(c);
  for (const Rule& r : rules_) {
    if (!r.element.empty() && r.element != element) continue;
    if (!r.id.empty() && r.id != id) continue;
    if (!std::all_of(r.classes.begin(), r.classes.end(), [&](const std::string& c) {
          return std::find(classes.begin(), classes.end(), c) != classes.end();
        }))
      continue;
    for (const auto& [key, value] : r.says) one(key, value);
  }
  for (const auto& [key, value] : declarations(node.attribute("style").value())) one(key, value);
  return s;
}

}  // namespace pour
