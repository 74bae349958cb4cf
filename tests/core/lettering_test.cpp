// Letters against the fonts' own outlines and CGAL.
#include "shape/lettering.h"

#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_OUTLINE_H
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include "base/error.h"
#include "core/cgal_mesh.h"
#include "shape/fonts.h"
#include "shape/level_set.h"
#include "shape/placed.h"
#include "shape/spots.h"
#include "shot/recipes.h"

using namespace pour;
using testing::HasSubstr;

namespace {

double total_area(const Outline& o) {
  double a = 0;
  for (const auto& p : o.parts) a += p.area();
  return a;
}

/// Area of one glyph from its Bézier control points by Green's theorem, in font units squared.
double glyph_area(const std::string& font, uint32_t character, double& cap_height) {
  FT_Library lib;
  FT_Face face;
  FT_Init_FreeType(&lib);
  const FontFile f = find_font(font);
  FT_New_Face(lib, f.file.c_str(), f.face, &face);
  FT_Load_Char(face, 'H', FT_LOAD_NO_SCALE);
  cap_height = double(face->glyph->metrics.height);
  FT_Load_Char(face, character, FT_LOAD_NO_SCALE);
  struct Sum {
    double area = 0;
    FT_Vector at{}, start{};
    static double cross(const FT_Vector& a, const FT_Vector& b) {
      return double(a.x) * double(b.y) - double(b.x) * double(a.y);
    }
    void line(const FT_Vector& p) { area += cross(at, p) / 2, at = p; }
  } sum;
  const FT_Outline_Funcs funcs{
      [](const FT_Vector* p, void* s) {
        auto& t = *static_cast<Sum*>(s);
        if (t.at.x != t.start.x || t.at.y != t.start.y) t.line(t.start);
        t.at = t.start = *p;
        return 0;
      },
      [](const FT_Vector* p, void* s) {
        static_cast<Sum*>(s)->line(*p);
        return 0;
      },
      [](const FT_Vector* c, const FT_Vector* p, void* s) {
        auto& t = *static_cast<Sum*>(s);
        // ∮ ½ (x dy - y dx) over a quadratic: (2 a×c + 2 c×p + a×p) / 6.
        t.area += (2 * Sum::cross(t.at, *c) + 2 * Sum::cross(*c, *p) + Sum::cross(t.at, *p)) / 6;
        t.at = *p;
        return 0;
      },
      [](const FT_Vector* c, const FT_Vector* d, const FT_Vector* p, void* s) {
        auto& t = *static_cast<Sum*>(s);
        // The same over a cubic: (6 a×c + 3 a×d + a×p + 3 c×d + 3 c×p + 6 d×p) / 20.
        t.area += (6 * Sum::cross(t.at, *c) + 3 * Sum::cross(t.at, *d) + Sum::cross(t.at, *p) +
                   3 * Sum::cross(*c, *d) + 3 * Sum::cross(*c, *p) + 6 * Sum::cross(*d, *p)) /
                  20;
        t.at = *p;
        return 0;
      },
      0,
      0};
  FT_Outline_Decompose(&face->glyph->outline, &funcs, &sum);
  sum.line(sum.start);
  FT_Done_Face(face);
  FT_Done_FreeType(lib);
  return std::abs(sum.area);
}

Outline letters(const std::string& text, const std::string& font = "League Spartan Bold") {
  return outline_text(text, {.font = font, .letter_size = 0.1});
}

}  // namespace

TEST(Lettering, AreaIsTheFontsOwn) {
  // Letters whose contours do not overlap, so that the union changes nothing.
  for (const char* font : {"League Spartan Bold", "Inter Bold"})
    for (const char c : std::string("HOABLDRK")) {
      double cap = 0;
      const double units = glyph_area(font, uint32_t(c), cap);
      const Outline o = letters(std::string(1, c), font);
      // The font's stated capital height may differ from that of H by a unit or two; the width of the scale
      // is taken from H itself.
      const Outline h = letters("H", font);
      double low = 1e9, high = -1e9;
      for (const Vec3d& p : h.parts[0].outer.points) low = std::min(low, p.y), high = std::max(high, p.y);
      const double metre = (high - low) / cap;
      EXPECT_NEAR(total_area(o), units * metre * metre, 0.002 * units * metre * metre) << font << " " << c;
    }
}

TEST(Lettering, CountersAccentsAndDots) {
  EXPECT_EQ(letters("O").parts.size(), 1u);
  EXPECT_EQ(letters("O").parts[0].holes.size(), 1u);
  EXPECT_EQ(letters("B").parts[0].holes.size(), 2u);
  EXPECT_EQ(letters("ODDLARK").parts.size(), 7u);
  EXPECT_EQ(letters("i").parts.size(), 2u) << "the dot is a part of its own";
  EXPECT_EQ(letters("É").parts.size(), 2u);
  EXPECT_EQ(letters("E\u0301").parts.size(), 2u) << "a combining accent is placed by the font";
  EXPECT_NEAR(total_area(letters("E\u0301")), total_area(letters("É")), 0.02 * total_area(letters("É")));
}

TEST(Lettering, LettersThatTouchAreUnited) {
  // Set so tight that the two rings overlap: one vessel, and what they share counts once.
  const Outline o = outline_text("OO", {.font = "League Spartan Bold", .letter_size = 0.1, .spacing = -0.03});
  EXPECT_EQ(o.parts.size(), 1u);
  EXPECT_EQ(o.parts[0].holes.size(), 2u) << "the two counters";
  EXPECT_LT(total_area(o), total_area(letters("OO")));
}

TEST(Lettering, RightToLeftAndCjk) {
  const std::string hebrew = font_with({0x5D0, 0x5D5}), arabic = font_with({0x628, 0x633}),
                    cjk = font_with({0x6C34});
  ASSERT_FALSE(hebrew.empty() || arabic.empty() || cjk.empty())
      << "the test packages bring fonts for these scripts";
  // Alef is broad, vav is a thin stroke: written alef, vav, the vav stands on the left.
  const Outline pair = letters("\u05D0\u05D5", hebrew);
  const auto width = [](const Outline::Part& p) {
    Box b;
    for (const Vec3d& v : p.outer.points) b.add(v);
    return b.size().x;
  };
  EXPECT_LT(width(pair.parts.front()), width(pair.parts.back()));
  // Beh and seen join: one body, and the dot below.
  EXPECT_EQ(letters("\u0628\u0633", arabic).parts.size(), 2u);
  EXPECT_GE(letters("\u6C34", cjk).parts.size(), 1u);
  // Numbers inside right-to-left text still run left to right: the 1 stands left of the 2.
  EXPECT_NO_THROW(letters("\u05D0 12", hebrew));
}

TEST(Lettering, SolidsAreClosedOrientedAndOfTheRightVolume) {
  for (const char* font : {"League Spartan Bold", "Inter Regular", "Lobster Two Bold Italic", "Inter Medium"})
    for (const double bevel : {0.0, 0.002, 0.02}) {
      const Outline o = letters("OBÅk&8", font);
      const auto meshes = extrude(o, 0.04, bevel);
      ASSERT_EQ(meshes.size(), o.parts.size());
      for (size_t i = 0; i < meshes.size(); ++i) {
        const CgalMesh s(meshes[i]);
        ASSERT_EQ(s.faces(), meshes[i].triangles.size())
            << font << " bevel " << bevel << ": CGAL takes every face as manifold";
        EXPECT_TRUE(s.is_closed()) << font << " bevel " << bevel;
        const double volume = s.volume();
        EXPECT_GT(volume, 0) << "outward oriented";
        EXPECT_NEAR(volume, meshes[i].volume(), 1e-4 * volume);
        const double prism = o.parts[i].area() * 0.04;
        if (bevel == 0)
          EXPECT_NEAR(volume, prism, 1e-4 * prism);
        else
          EXPECT_LT(volume, prism);
      }
    }
}

TEST(Lettering, BevelVolumeOfASquareIsTheIntegral) {
  // A square of side a, rounded over b at both ends with a quarter circle: the side at depth t below the
  // front is a - 2 b (1 - sqrt(1 - (1 - t/b)²)). Compared with the exact integral; the bevel has four steps.
  Outline o;
  const double a = 0.05, b = 0.01, depth = 0.04;
  o.parts.push_back({{{{0, 0, 0}, {a, 0, 0}, {a, a, 0}, {0, a, 0}}}, {}});
  double exact = a * a * (depth - 2 * b);
  for (int i = 0; i < 20000; ++i) {
    const double t = (i + 0.5) / 20000, side = a - 2 * b * (1 - std::sqrt(1 - (1 - t) * (1 - t)));
    exact += 2 * side * side * b / 20000;
  }
  EXPECT_NEAR(extrude(o, depth, b)[0].volume(), exact, 0.01 * exact);
}

TEST(Lettering, MissingThingsAreNamed) {
  const auto fault = [](auto f) -> std::string {
    try {
      f();
    } catch (const Fault& e) {
      return e.what();
    }
    return "";
  };
  EXPECT_THAT(fault([] { letters(""); }), HasSubstr("no text"));
  EXPECT_THAT(fault([] { letters("\u6C34"); }),
              testing::AllOf(HasSubstr("has no “\u6C34”"), HasSubstr("has it")));
  EXPECT_THAT(fault([] { letters("A", "League Spartn Bold"); }), HasSubstr("League Spartan Bold"));
  EXPECT_THAT(fault([] { letters("\xff\xfe"); }), HasSubstr("UTF-8"));
  EXPECT_THAT(fault([] { letters(std::string(501, 'a')); }), HasSubstr("500"));
}

// Feet of letters as anybody draws them (the M of this font lets its middle hang): smoke that rises from one
// does not come down into another.
TEST(Lettering, EveryFootHasASeed) {
  const std::pair<const char*, size_t> feet[] = {
      {"O", 1}, {"D", 1}, {"L", 1}, {"E", 1}, {"T", 1}, {"S", 1}, {"C", 1}, {"G", 1}, {"F", 1},
      {"Y", 1}, {"Q", 1}, {"V", 1}, {"J", 1}, {"U", 1}, {"A", 2}, {"R", 2}, {"K", 2}, {"H", 2},
      {"N", 2}, {"X", 2}, {"W", 2}, {"M", 3}, {"e", 1}, {"a", 1}, {"n", 2}, {".", 1}, {"-", 1}};
  for (const auto& [letter, count] : feet) {
    const Outline o = letters(letter);
    ASSERT_EQ(o.parts.size(), 1u) << letter;
    const Spots spots = find_spots(o.parts[0], 0.1);
    ASSERT_EQ(spots.low.size(), count) << letter;
    EXPECT_EQ(spots.centre.size(), 1u) << letter;
    double lowest = 1, left = 1;
    for (const Vec3d& p : o.parts[0].outer.points) lowest = std::min(lowest, p.y), left = std::min(left, p.x);
    for (const Spot& s : spots.low) {
      EXPECT_LT(s.center.y - lowest, 1.3 * spots.stroke) << letter << ": at the bottom of its foot";
      EXPECT_GT(s.radius, 0.15 * spots.stroke) << letter;
      EXPECT_LE(s.radius, spots.stroke / 2 + 1e-9) << letter;
    }
    for (size_t i = 1; i < count; ++i)
      EXPECT_GT(spots.low[i].center.x - spots.low[i - 1].center.x, spots.stroke) << letter << ": apart";
    EXPECT_LT(spots.left.center.x - left, 2 * spots.stroke) << letter;
  }
}

TEST(Lettering, JoinedLettersHaveSeedsAllAlong) {
  const Outline o = letters("minimum", "Lobster Two Bold Italic");
  const auto widest = std::max_element(o.parts.begin(), o.parts.end(),
                                       [](const auto& a, const auto& b) { return a.area() < b.area(); });
  Box box;
  for (const Vec3d& p : widest->outer.points) box.add(p);
  ASSERT_GT(box.size().x, 0.3) << "the word hangs together";
  const Spots spots = find_spots(*widest, 0.1);
  EXPECT_GE(spots.low.size(), 10u) << "its feet: 3, 1, 2, 1, 3, 2, 3, some of them joined by their tails";
  EXPECT_GE(spots.centre.size(), 3u);
  for (const auto* all : {&spots.low, &spots.centre})
    for (size_t i = 1; i < all->size(); ++i)
      EXPECT_LT((*all)[i].center.x - (*all)[i - 1].center.x, 0.2) << "no stretch is left out";
}

// Letters that touch are one vessel, or are cut apart; each has its seeds either way, and the dots of an
// umlaut smaller ones, so that they are not full long before it.
TEST(Lettering, EveryLetterHasItsSeeds) {
  Lettering script;
  script.text = "minimum", script.font.name = "Lobster Two Bold Italic";
  const auto whole = bodies_of(script);
  size_t seeds = 0;
  for (const Body& b : *whole) seeds += b.seeds[int(SeedPlace::left)].size();
  EXPECT_EQ(seeds, 7u + 2) << "seven letters, two dots";
  script.joined = false;
  const auto parts = bodies_of(script);
  EXPECT_EQ(parts->size(), 7u + 2);
  EXPECT_GT(parts->size(), whole->size());
  double before = 0, after = 0;
  for (const Body& b : *whole) before += b.mesh.volume();
  for (const Body& b : *parts) {
    after += b.mesh.volume();
    EXPECT_TRUE(is_closed(b.mesh));
  }
  EXPECT_LT(after, before);
  EXPECT_GT(after, 0.85 * before) << "the gaps are narrow";
  Lettering umlaut;
  umlaut.text = "Ö";
  const auto letter = bodies_of(umlaut);
  ASSERT_EQ(letter->size(), 3u);
  std::vector<std::pair<double, double>> by_volume;  // of each body and of its seeds
  for (const Body& b : *letter) {
    double of_seeds = 0;
    for (const Body::Seed& s : b.seeds[int(SeedPlace::low)]) of_seeds += std::pow(s.room, 3);
    by_volume.emplace_back(b.mesh.volume(), of_seeds);
  }
  std::sort(by_volume.begin(), by_volume.end());
  EXPECT_NEAR(by_volume[0].second / by_volume[0].first / (by_volume[2].second / by_volume[2].first), 1, 0.3)
      << "full at about the same time";
}

TEST(Lettering, SeedsLieInsideWithRoom) {
  for (const Body& part : *bodies_of(Lettering())) {
    const LevelSet set(part.mesh, 0.001);
    for (int i = 0; i < seed_places; ++i)
      for (const Body::Seed& seed : part.seeds[i]) {
        EXPECT_LT(set.distance(seed.place), -0.0009) << "place " << i;
        EXPECT_GT(seed.room, 0.003);
      }
    EXPECT_LE(part.seeds[0].front().place.y, part.seeds[1].front().place.y + 1e-6)
        << "low is below the centre";
  }
}

TEST(LevelSet, DistancesOfABall) {
  const LevelSet set(ball_mesh(0.05), 0.002);
  for (const double r : {0.046, 0.05, 0.054})
    for (const Vec3d& d : {Vec3d{1, 0, 0}, Vec3d{0.6, 0.8, 0}, Vec3d{0.48, 0.6, 0.64}})
      EXPECT_NEAR(set.distance(d * r), r - 0.05, 2e-4) << r;
}

TEST(Fonts, TheShippedOnesComeFirst) {
  const auto& all = all_fonts();
  const auto shipped = [](const FontFile& f) { return f.shipped; };
  EXPECT_GE(std::count_if(all.begin(), all.end(), shipped), 10);
  EXPECT_TRUE(std::is_partitioned(all.begin(), all.end(), shipped));
  EXPECT_TRUE(find_font("League Spartan Bold").shipped) << "also where the system has it too";
  EXPECT_EQ(font_with({0x1F601, 0x6C34, 0x5D0, 0xE000}), "") << "no font has all of these";
}
