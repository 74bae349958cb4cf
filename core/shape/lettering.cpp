#include "shape/lettering.h"

#include <fribidi.h>
#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_OUTLINE_H
#include FT_TRUETYPE_TABLES_H
#include <hb-ft.h>
#include <hb.h>

#include <map>
#include <memory>
#include <mutex>
#include <span>

#include "base/error.h"
#include "base/shelf.h"
#include "base/text.h"
#include "shape/clipped.h"
#include "shape/fonts.h"

namespace pour {
namespace {

namespace cl = ClipperLib;

// Clipper works on whole numbers: this many per font unit of an em of 1000.
constexpr double clipper_scale = 1024;

std::vector<uint32_t> decode_utf8(const std::string& s) {
  std::vector<uint32_t> out;
  for (size_t i = 0; i < s.size();) {
    const auto c = static_cast<unsigned char>(s[i]);
    const int n = c < 0x80 ? 1 : c >> 5 == 6 ? 2 : c >> 4 == 14 ? 3 : c >> 3 == 30 ? 4 : 0;
    if (n == 0 || i + size_t(n) > s.size()) throw shot_fault("Text", "is not valid UTF-8.", "Type it again.");
    uint32_t u = n == 1 ? c : c & (0x7fu >> n);
    for (int k = 1; k < n; ++k) u = u << 6 | (static_cast<unsigned char>(s[i + size_t(k)]) & 0x3f);
    out.push_back(u < 0x20 ? 0x20 : u);
    i += size_t(n);
  }
  return out;
}

std::string encode_utf8(uint32_t u) {
  char b[5] = {};
  if (u < 0x80)
    b[0] = char(u);
  else if (u < 0x800)
    b[0] = char(0xc0 | u >> 6), b[1] = char(0x80 | (u & 63));
  else if (u < 0x10000)
    b[0] = char(0xe0 | u >> 12), b[1] = char(0x80 | (u >> 6 & 63)), b[2] = char(0x80 | (u & 63));
  else
    b[0] = char(0xf0 | u >> 18), b[1] = char(0x80 | (u >> 12 & 63)), b[2] = char(0x80 | (u >> 6 & 63)),
    b[3] = char(0x80 | (u & 63));
  return b;
}

struct Face {
  FT_Library library = nullptr;
  FT_Face face = nullptr;
  hb_font_t* shaper = nullptr;
  explicit Face(const FontFile& f) {
    if (FT_Init_FreeType(&library) || FT_New_Face(library, f.file.c_str(), f.face, &face)) {
      if (library) FT_Done_FreeType(library);
      throw shot_fault(filled("Font “{name}”", {{"name", f.name}}),
                       filled("can't be opened ({file}).", {{"file", f.file}}),
                       "Choose another font or install it again.");
    }
    FT_Set_Char_Size(face, FT_F26Dot6(face->units_per_EM) * 64, 0, 72, 72);
    shaper = hb_ft_font_create_referenced(face);
    hb_ft_font_set_load_flags(shaper, FT_LOAD_NO_HINTING | FT_LOAD_NO_BITMAP);
  }
  Face(const Face&) = delete;
  Face& operator=(const Face&) = delete;
  ~Face() {
    hb_font_destroy(shaper);
    FT_Done_Face(face);
    FT_Done_FreeType(library);
  }
  double capital_height() const {  // font units
    if (const auto* os2 = static_cast<const TT_OS2*>(FT_Get_Sfnt_Table(face, FT_SFNT_OS2));
        os2 && os2->version >= 2 && os2->sCapHeight > 0)
      return os2->sCapHeight;
    if (!FT_Load_Char(face, 'H', FT_LOAD_NO_SCALE) && face->glyph->metrics.height > 0)
      return double(face->glyph->metrics.height);
    return 0.7 * face->units_per_EM;
  }
};

// A stretch of text with one direction and one script, in the order in which it is seen.
struct TextRun {
  size_t start, length;
  bool right_to_left;
};

std::vector<TextRun> visual_runs(const std::vector<uint32_t>& text) {
  const auto n = FriBidiStrIndex(text.size());
  std::vector<FriBidiCharType> types(text.size());
  std::vector<FriBidiBracketType> brackets(text.size());
  std::vector<FriBidiLevel> levels(text.size());
  fribidi_get_bidi_types(text.data(), n, types.data());
  fribidi_get_bracket_types(text.data(), n, types.data(), brackets.data());
  FriBidiParType base = FRIBIDI_PAR_ON;
  if (!fribidi_get_par_embedding_levels_ex(types.data(), brackets.data(), n, &base, levels.data()))
    std::fill(levels.begin(), levels.end(), FriBidiLevel(0));
  hb_unicode_funcs_t* unicode = hb_unicode_funcs_get_default();
  std::vector<hb_script_t> script(text.size());
  hb_script_t last = HB_SCRIPT_COMMON;
  for (size_t i = 0; i < text.size(); ++i) {  // marks and punctuation join the script before them
    const hb_script_t s = hb_unicode_script(unicode, text[i]);
    if (s != HB_SCRIPT_COMMON && s != HB_SCRIPT_INHERITED) last = s;
    script[i] = last;
  }
  struct Piece {
    TextRun run;
    int level;
  };
  std::vector<Piece> pieces;
  for (size_t i = 0; i < text.size();) {
    size_t j = i + 1;
    while (j < text.size() && levels[j] == levels[i] &&
           (script[j] == script[i] || script[i] == HB_SCRIPT_COMMON)) {
      if (script[i] == HB_SCRIPT_COMMON) script[i] = script[j];
      ++j;
    }
    pieces.push_back({{i, j - i, (levels[i] & 1) != 0}, levels[i]});
    i = j;
  }
  // Unicode Standard Annex 9, rule L2: from the highest level down, reverse every stretch at or above it.
  int highest = 0;
  for (const Piece& p : pieces) highest = std::max(highest, p.level);
  for (int level = highest; level >= 1; --level)
    for (size_t i = 0; i < pieces.size();) {
      size_t j = i;
      while (j < pieces.size() && pieces[j].level >= level) ++j;
      if (j > i) std::reverse(pieces.begin() + long(i), pieces.begin() + long(j));
      i = std::max(j, i + 1);
    }
  std::vector<TextRun> out;
  out.reserve(pieces.size());
  for (const Piece& p : pieces) out.push_back(p.run);
  return out;
}

// Turns FreeType outlines (26.6 units) into polygons at an offset, in Clipper units.
struct Flattener {
  cl::Paths paths;
  double scale, dx, dy, tolerance;
  FT_Vector at{};
  void put(double x, double y) {
    paths.back().emplace_back(cl::cInt(std::llround(x * scale + dx)), cl::cInt(std::llround(y * scale + dy)));
  }
  template <class Curve>
  void curve(double bend, const Curve& f) {
    // A parabola with second difference `bend` is off its chord by bend / (4 n²) when cut in n.
    const int n = std::clamp(int(std::ceil(std::sqrt(bend * scale / (4 * tolerance)))), 1, 64);
    for (int i = 1; i <= n; ++i) f(double(i) / n);
  }
  static int move(const FT_Vector* p, void* self) {
    auto& f = *static_cast<Flattener*>(self);
    f.paths.emplace_back();
    f.at = *p;
    f.put(double(p->x), double(p->y));
    return 0;
  }
  static int line(const FT_Vector* p, void* self) {
    auto& f = *static_cast<Flattener*>(self);
    f.put(double(p->x), double(p->y));
    f.at = *p;
    return 0;
  }
  static int conic(const FT_Vector* c, const FT_Vector* p, void* self) {
    auto& f = *static_cast<Flattener*>(self);
    const FT_Vector a = f.at;
    f.curve(std::hypot(double(a.x - 2 * c->x + p->x), double(a.y - 2 * c->y + p->y)), [&](double t) {
      const double u = 1 - t;
      f.put(u * u * double(a.x) + 2 * u * t * double(c->x) + t * t * double(p->x),
            u * u * double(a.y) + 2 * u * t * double(c->y) + t * t * double(p->y));
    });
    f.at = *p;
    return 0;
  }
  static int cubic(const FT_Vector* c, const FT_Vector* d, const FT_Vector* p, void* self) {
    auto& f = *static_cast<Flattener*>(self);
    const FT_Vector a = f.at;
    const double bend =
        3 * std::max(std::hypot(double(a.x - 2 * c->x + d->x), double(a.y - 2 * c->y + d->y)),
                     std::hypot(double(c->x - 2 * d->x + p->x), double(c->y - 2 * d->y + p->y)));
    f.curve(bend, [&](double t) {
      const double u = 1 - t;
      f.put(u * u * u * double(a.x) + 3 * u * u * t * double(c->x) + 3 * u * t * t * double(d->x) +
                t * t * t * double(p->x),
            u * u * u * double(a.y) + 3 * u * u * t * double(c->y) + 3 * u * t * t * double(d->y) +
                t * t * t * double(p->y));
    });
    f.at = *p;
    return 0;
  }
};

}  // namespace

std::string font_for(const std::string& utf8) {
  std::vector<uint32_t> characters = decode_utf8(utf8);
  std::erase_if(characters, [](uint32_t c) { return c <= 0x20 || c == 0xA0; });
  return characters.empty() ? "" : font_with(characters);
}

namespace {

/// A text as a font draws it, letter by letter from left to right.
struct Letters {
  double em = 1000, capital = 700;  // font units
  struct Glyph {
    double advance = 0, x = 0, y = 0;  // to the next one, and where it is drawn; 26.6 units
    cl::Paths paths;                   // in Clipper units; strokes united
    bool begins = true;                // a letter; otherwise it belongs to the one before
  };
  std::vector<Glyph> glyphs;
  double unit() const { return clipper_scale * 1000 / em; }  // Clipper units a font unit
};

Letters draw_letters(const std::string& utf8, const std::string& font_name) {
  const std::vector<uint32_t> text = decode_utf8(utf8);
  if (std::all_of(text.begin(), text.end(), [](uint32_t c) { return c == 0x20 || c == 0xa0; }))
    throw shot_fault("Lettering", "has no text.", "Type a word.");
  if (text.size() > 500)
    throw shot_fault("Lettering", "has more than 500 characters.", "Type a shorter text.");
  const Face font(find_font(font_name));
  Letters out;
  out.em = font.face->units_per_EM, out.capital = font.capital_height();
  const double unit = out.unit();
  Flattener flat{{}, unit / 64, 0, 0, unit * out.em / 4000, {}};
  std::vector<uint32_t> missing;
  for (const TextRun& run : visual_runs(text)) {
    const std::unique_ptr<hb_buffer_t, void (*)(hb_buffer_t*)> buffer(hb_buffer_create(), hb_buffer_destroy);
    hb_buffer_add_utf32(buffer.get(), text.data(), int(text.size()), unsigned(run.start), int(run.length));
    hb_buffer_guess_segment_properties(buffer.get());
    hb_buffer_set_direction(buffer.get(), run.right_to_left ? HB_DIRECTION_RTL : HB_DIRECTION_LTR);
    hb_shape(font.shaper, buffer.get(), nullptr, 0);
    unsigned n = 0;
    const hb_glyph_info_t* glyph = hb_buffer_get_glyph_infos(buffer.get(), &n);
    const hb_glyph_position_t* place = hb_buffer_get_glyph_positions(buffer.get(), &n);
    for (unsigned i = 0; i < n; ++i) {
      if (glyph[i].codepoint == 0) {
        missing.push_back(text[glyph[i].cluster]);
        continue;
      }
      if (FT_Load_Glyph(font.face, glyph[i].codepoint, FT_LOAD_NO_HINTING | FT_LOAD_NO_BITMAP)) continue;
      static const FT_Outline_Funcs funcs{
          Flattener::move, Flattener::line, Flattener::conic, Flattener::cubic, 0, 0};
      flat.paths.clear();
      FT_Outline_Decompose(&font.face->glyph->outline, &funcs, &flat);
      // Each glyph by itself first: PostScript outlines run the other way round than TrueType ones, and
      // variable fonts overlap within a glyph. Both are settled by the non-zero rule.
      if (FT_Outline_Get_Orientation(&font.face->glyph->outline) == FT_ORIENTATION_TRUETYPE)
        cl::ReversePaths(flat.paths);
      cl::SimplifyPolygons(flat.paths, cl::pftNonZero);
      out.glyphs.push_back({double(place[i].x_advance), double(place[i].x_offset), double(place[i].y_offset),
                            std::move(flat.paths), i == 0 || glyph[i].cluster != glyph[i - 1].cluster});
    }
  }
  if (missing.empty()) return out;
  const std::string other = font_for(utf8);
  throw shot_fault(
      "Lettering",
      filled("“{font}” has no “{missing}”.",
             {{"font", font_name}, {"missing", encode_utf8(missing.front())}}),
      other.empty() ? "Choose a font that has it." : filled("“{other}” has it.", {{"other", other}}));
}

/// Texts that came with shots, by font and text.
struct Kept {
  std::mutex mutex;
  std::map<std::pair<std::string, std::string>, std::shared_ptr<const Letters>> letters;
};
Kept& kept() {
  static Kept all;
  return all;
}

std::shared_ptr<const Letters> kept_letters(const std::string& utf8, const std::string& font) {
  const std::lock_guard lock(kept().mutex);
  const auto found = kept().letters.find({font, utf8});
  return found == kept().letters.end() ? nullptr : found->second;
}

bool is_installed(const std::string& font) {
  try {
    (void)find_font(font);
    return true;
  } catch (const Fault&) {
    return false;
  }
}

std::shared_ptr<const Letters> letters_of(const std::string& utf8, const std::string& font) {
  if (auto came = is_installed(font) ? nullptr : kept_letters(utf8, font)) return came;
  static Shelf<std::pair<std::string, std::string>, Letters> drawn(32);
  return drawn.get({font, utf8}, [&] { return draw_letters(utf8, font); });
}

constexpr std::string_view letters_mark = "EPL1";
constexpr size_t most_glyphs = 2000, most_points = 1'000'000;  // of a text

}  // namespace

std::string pack_letters(const std::string& utf8, const std::string& font) try {
  const auto letters = letters_of(utf8, font);
  std::string out(letters_mark);
  const auto put = [&](double v) {
    const auto whole = uint64_t(int64_t(std::llround(v)));
    for (int k = 0; k < 8; ++k) out += char(whole >> 8 * k & 0xff);  // little-endian on every machine
  };
  put(letters->em), put(letters->capital), put(double(letters->glyphs.size()));
  for (const Letters::Glyph& g : letters->glyphs) {
    put(g.advance), put(g.x), put(g.y), put(double(g.paths.size()));
    for (const cl::Path& path : g.paths) {
      put(double(path.size()));
      for (const cl::IntPoint& p : path) put(double(p.X)), put(double(p.Y));
    }
  }
  return out;
} catch (const Fault&) {
  return {};
}

void keep_letters(const std::string& utf8, const std::string& font, const std::string& bytes,
                  const std::string& where) {
  const auto wrong = [&] {
    return shot_fault(where, "has letters that are none.", "Restore the file from a copy, or remove them.");
  };
  if (!bytes.starts_with(letters_mark)) throw wrong();
  size_t at = letters_mark.size();
  const auto take = [&](double low, double high) {
    if (at + 8 > bytes.size()) throw wrong();
    uint64_t whole = 0;
    for (int k = 0; k < 8; ++k) whole |= uint64_t(static_cast<unsigned char>(bytes[at + size_t(k)])) << 8 * k;
    at += 8;
    const double v = double(int64_t(whole));
    if (!(v >= low && v <= high)) throw wrong();
    return v;
  };
  constexpr double far = 1e12;
  Letters letters;
  letters.em = take(1, 1e6), letters.capital = take(1, 1e6);
  letters.glyphs.resize(size_t(take(0, double(most_glyphs))));
  size_t points = 0;
  for (Letters::Glyph& g : letters.glyphs) {
    g.advance = take(-far, far), g.x = take(-far, far), g.y = take(-far, far);
    g.begins = g.advance != 0;  // accents take no room
    g.paths.resize(size_t(take(0, double(most_points))));
    for (cl::Path& path : g.paths) {
      const size_t count = size_t(take(0, double(most_points)));
      if ((points += count) > most_points || count > (bytes.size() - at) / 16) throw wrong();
      for (size_t i = 0; i < count; ++i) {
        const double x = take(-far, far), y = take(-far, far);
        path.emplace_back(cl::cInt(x), cl::cInt(y));
      }
    }
  }
  if (at != bytes.size()) throw wrong();
  const std::lock_guard lock(kept().mutex);
  kept().letters[{font, utf8}] = std::make_shared<const Letters>(std::move(letters));
}

bool are_borrowed(const std::string& utf8, const std::string& font) {
  return !is_installed(font) && kept_letters(utf8, font);
}

namespace {

/// The letters of a text where they stand, each with its strokes united; Clipper units.
std::vector<cl::Paths> placed_letters(const Letters& letters, double spacing) {
  std::vector<cl::Paths> out;
  double pen = 0;
  for (const Letters::Glyph& g : letters.glyphs) {
    const cl::IntPoint to(cl::cInt(std::llround((pen + g.x) * letters.unit() / 64)),
                          cl::cInt(std::llround(g.y * letters.unit() / 64)));
    if (g.begins || out.empty()) out.emplace_back();
    for (cl::Path path : g.paths) {
      for (cl::IntPoint& p : path) p.X += to.X, p.Y += to.Y;
      out.back().push_back(std::move(path));
    }
    pen += g.advance + spacing;
  }
  std::erase_if(out, [](const cl::Paths& p) { return p.empty(); });
  return out;
}

/// Subtracts from each letter the letters before it, with a gap around them.
void cut_apart(std::vector<cl::Paths>& letters, double gap) {
  cl::Paths before;
  for (cl::Paths& letter : letters) {
    const cl::Paths whole = letter;
    if (!before.empty()) {
      cl::Paths wider;
      cl::ClipperOffset grow;
      grow.AddPaths(before, cl::jtRound, cl::etClosedPolygon);
      grow.Execute(wider, gap);
      cl::Clipper cut;
      cut.AddPaths(letter, cl::ptSubject, true), cut.AddPaths(wider, cl::ptClip, true);
      cut.Execute(cl::ctDifference, letter, cl::pftNonZero, cl::pftNonZero);
    }
    cl::Clipper all;
    all.AddPaths(before, cl::ptSubject, true), all.AddPaths(whole, cl::ptSubject, true);
    all.Execute(cl::ctUnion, before, cl::pftNonZero, cl::pftNonZero);
  }
}

}  // namespace

Outline outline_text(const std::string& utf8, const LetteringStyle& style) {
  return word_outline(utf8, style).outline;
}

Word word_outline(const std::string& utf8, const LetteringStyle& style) {
  constexpr double gap_share = 0.04;  // of the height of a capital
  const auto drawn = letters_of(utf8, style.font);
  const double unit = drawn->unit();
  const double metre = style.letter_size / drawn->capital;  // metres a font unit
  std::vector<cl::Paths> letters = placed_letters(*drawn, style.spacing / metre * 64);
  if (style.split) cut_apart(letters, gap_share * drawn->capital * unit);
  const auto united = [&](std::span<const cl::Paths> some) {
    cl::Clipper unite;
    unite.StrictlySimple(true);
    for (const cl::Paths& paths : some) unite.AddPaths(paths, cl::ptSubject, true);
    cl::PolyTree tree;
    unite.Execute(cl::ctUnion, tree, cl::pftNonZero, cl::pftNonZero);
    return outline_from(tree, metre / unit, unit * drawn->em * 1e-5);
  };
  Word out{united(letters), {}};
  if (out.outline.parts.empty())
    throw shot_fault("Lettering", filled("“{text}” has nothing to show in this font.", {{"text", utf8}}),
                     "Type a word with visible letters.");
  for (const cl::Paths& letter : letters)
    if (Outline one = united({&letter, 1}); !one.parts.empty()) out.letters.push_back(std::move(one));
  Box box;
  for (const auto& p : out.outline.parts)
    for (const Vec3d& v : p.outer.points) box.add(v);
  const Vec3d shift{-box.center().x, -style.letter_size / 2, 0};
  const auto move = [&](Outline& o) {
    for (auto& p : o.parts) {
      for (Vec3d& v : p.outer.points) v += shift;
      for (auto& h : p.holes)
        for (Vec3d& v : h.points) v += shift;
    }
  };
  move(out.outline);
  for (Outline& letter : out.letters) move(letter);
  return out;
}

}  // namespace pour
