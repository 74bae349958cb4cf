#include "shape/fonts.h"

#include <fontconfig/fontconfig.h>

#include <algorithm>
#include <mutex>

#include "base/error.h"
#include "base/file.h"
#include "base/text.h"
#include "base/units.h"

namespace pour {
namespace {

FcConfig* config() {
  static FcConfig* const c = [] {
    FcConfig* made = FcInitLoadConfigAndFonts();
    const std::string folder = (share_folder() / "fonts").string();
    FcConfigAppFontAddDir(made, reinterpret_cast<const FcChar8*>(folder.c_str()));
    return made;
  }();
  return c;
}

std::string text(const FcPattern* p, const char* key) {
  FcChar8* s = nullptr;
  return FcPatternGetString(p, key, 0, &s) == FcResultMatch ? reinterpret_cast<const char*>(s) : "";
}

/// Family and style, the common name of a font.
std::string full_name(const FcPattern* p) {
  const std::string style = text(p, FC_STYLE);
  return text(p, FC_FAMILY) + (style.empty() ? "" : " " + style);
}

}  // namespace

const std::vector<FontFile>& all_fonts() {
  static const std::vector<FontFile> fonts = [] {
    std::vector<FontFile> out;
    const std::string shipped = (share_folder() / "fonts").string();
    for (const FcSetName set : {FcSetApplication, FcSetSystem}) {
      const FcFontSet* fonts_of_set = FcConfigGetFonts(config(), set);
      for (int i = 0; fonts_of_set && i < fonts_of_set->nfont; ++i) {
        const FcPattern* p = fonts_of_set->fonts[i];
        FcBool scalable = FcFalse, variable = FcFalse;
        FcPatternGetBool(p, FC_SCALABLE, 0, &scalable);
        FcPatternGetBool(p, FC_VARIABLE, 0, &variable);
        if (!scalable || variable) continue;
        FontFile f;
        f.name = full_name(p), f.family = text(p, FC_FAMILY), f.file = text(p, FC_FILE);
        FcPatternGetInteger(p, FC_INDEX, 0, &f.face);
        f.shipped = f.file.starts_with(shipped);
        if (!f.name.empty() && !f.file.empty()) out.push_back(f);
      }
    }
    std::stable_sort(out.begin(), out.end(), [](const FontFile& a, const FontFile& b) {
      return a.shipped != b.shipped ? a.shipped : a.name != b.name ? a.name < b.name : a.file < b.file;
    });
    // The same font is often installed twice; the shipped copy wins.
    std::vector<FontFile> unique;
    for (const FontFile& f : out)
      if (std::none_of(unique.begin(), unique.end(), [&](const FontFile& u) { return u.name == f.name; }))
        unique.push_back(f);
    return unique;
  }();
  return fonts;
}

/// Of a family: the regular one, a bold one, or whichever is first.
static const FontFile* of_family(const std::string& name) {
  const FontFile* best = nullptr;
  int best_rank = 3;
  for (const FontFile& f : all_fonts()) {
    if (f.family != name) continue;
    const int rank = f.name == name + " Regular" || f.name == name ? 0 : f.name == name + " Bold" ? 1 : 2;
    if (rank < best_rank) best = &f, best_rank = rank;
  }
  return best;
}

const FontFile& find_font(const std::string& name) {
  std::vector<std::string> names;
  for (const FontFile& f : all_fonts()) {
    if (f.name == name) return f;
    names.push_back(f.name);
  }
  if (const FontFile* f = of_family(name)) return *f;
  if (names.empty())
    throw machine_fault("Fonts", "none were found on this machine.",
                        "Install a font, or put back the program's share folder.");
  // A slip of the pen; or else rather a font of the same family than one whose name merely looks alike.
  const auto lower = [](std::string t) {
    for (char& c : t) c = char(std::tolower(static_cast<unsigned char>(c)));
    return t;
  };
  std::string near = nearest(name, names, 2);
  for (std::string part = lower(name); near.empty() && part.size() > 2;) {
    for (const std::string& n : names)
      if (near.empty() && lower(n).starts_with(part)) near = n;
    const size_t space = part.rfind(' ');
    part = space == std::string::npos ? "" : part.substr(0, space);
  }
  if (near.empty()) near = nearest(name, names);
  throw shot_fault(filled("Font “{name}”", {{"name", name}}), "is neither shipped nor installed.",
                   filled("Use “{near}”, or install it.", {{"near", (near.empty() ? names.front() : near)}}));
}

std::string font_with(const std::vector<uint32_t>& characters) {
  FcCharSet* set = FcCharSetCreate();
  for (const uint32_t c : characters) FcCharSetAddChar(set, c);
  FcPattern* wanted = FcPatternCreate();
  FcPatternAddCharSet(wanted, FC_CHARSET, set);
  FcPatternAddBool(wanted, FC_SCALABLE, FcTrue);
  FcConfigSubstitute(config(), wanted, FcMatchPattern);
  FcDefaultSubstitute(wanted);
  FcResult result{};
  FcPattern* match = FcFontMatch(config(), wanted, &result);
  std::string name;
  if (match) {
    FcCharSet* has = nullptr;
    if (FcPatternGetCharSet(match, FC_CHARSET, 0, &has) == FcResultMatch && FcCharSetIsSubset(set, has))
      name = full_name(match);
    FcPatternDestroy(match);
  }
  FcPatternDestroy(wanted);
  FcCharSetDestroy(set);
  return name;
}

}  // namespace pour
