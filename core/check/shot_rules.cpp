// Rules of settings alone: ranges, fonts, letters, film.
#include "base/error.h"
#include "base/text.h"
#include "check/rules.h"
#include "shot/out_of_range.h"

namespace pour {

void ranges_are_settled(const Findings& f, Report& out) {
  for (const OutOfRange& o : unsettled_ranges(f.shot))
    out.fault(filled("{path} is out of range", {{"path", o.path}}), in_words(o),
              filled("Accept {value}", {{"value", o.now}}),
              [path = o.path](Shot& t) { settle_range(t, path); });
}

void fonts_are_installed(const Findings& f, Report& out) {
  for (const Piece& p : f.shot.pieces)
    if (const auto* word = std::get_if<Lettering>(&p.shape);
        word && are_borrowed(word->text, word->font.name))
      out.warn(filled("{name} is not installed", {{"name", word->font.name}}),
               filled("{name} uses letters stored in the shot. Other words can't be set in this font on this "
                      "machine.",
                      {{"name", p.name}}));
}

/// Gives each lettering that can't be set in its font one in which it can. Returns whether that helps.
bool mend_fonts(Shot& shot) {
  bool mended = false;
  for (Piece& p : shot.pieces) {
    auto* word = std::get_if<Lettering>(&p.shape);
    if (!word) continue;
    try {
      (void)bodies_of(p.shape);
    } catch (const Fault&) {
      try {
        Lettering other = *word;
        if (other.font.name = font_for(word->text); other.font.name.empty()) continue;
        (void)bodies_of(other);
        word->font = other.font, mended = true;
      } catch (const Fault&) {
        // The fault is not about the font.
      }
    }
  }
  return mended;
}

void letters_are_apart(const Findings& f, Report& out) {
  for (const Piece& p : f.shot.pieces) {
    const auto* word = std::get_if<Lettering>(&p.shape);
    if (!word || !word->joined || !p.holds) continue;
    bool touch = false;
    try {
      for (const Body& b : *bodies_of(p.shape, f.stop))
        touch = touch || b.seeds[int(SeedPlace::left)].size() > 1;
    } catch (const Fault&) {  // another check says so
    }
    if (touch)
      out.warn(filled("Letters of {name} touch", {{"name", p.name}}),
               "They form one vessel, so fluid flows from one letter into the next.", "Cut them apart",
               [id = p.id](Shot& t) { std::get<Lettering>(t.piece(id)->shape).joined = false; });
  }
}

void loop_fits_film(const Findings& f, Report& out) {
  const Film& film = f.shot.film;
  if (2 * film.loop > film.frames)
    out.warn("The loop blend is too long",
             filled("It takes {loop} frames at both ends of a film that has {frames}.",
                    {{"loop", std::to_string(film.loop)}, {"frames", std::to_string(film.frames)}}),
             "Shorten it", [](Shot& t) { t.film.loop = t.film.frames / 2; });
}

}  // namespace pour
