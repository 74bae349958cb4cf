// Colours of what is poured: by the drawing or the model that it comes out of, in patches, along a ramp.
#include <gtest/gtest.h>

#include <numbers>
#include <optional>

#include "base/srgb.h"
#include "check/checks.h"
#include "core/cli_fixture.h"
#include "frames/liquid_frame.h"
#include "run/simulate.h"
#include "run/start.h"
#include "shape/colors.h"
#include "shot/clock.h"
#include "shot/shot_file.h"
#include "world/source.h"

using namespace pour;

namespace {

std::string two_colours() {
  return "<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 100 100'>"
         "<rect width='50' height='100' fill='red'/><rect x='50' width='50' height='100' fill='blue'/></svg>";
}

/// A mark of two colours that is liquid from frame 1 on and falls.
Shot falling_mark() {
  Shot s;
  Piece p;
  Mark m;
  m.drawing = {"two", std::make_shared<const std::string>(two_colours())};
  m.height = 0.1, m.depth = 0.03, m.bevel = 0;
  p.id = "mark", p.shape = m, p.holds = p.shows = false, p.position = {0, 0.2, 0};
  s.pieces = {p};
  Fluid paint;
  paint.id = "paint", paint.what = Liquid{.color = {0, 1, 0}};
  s.fluids = {paint};
  Pour pour;
  pour.id = "pour", pour.fluid = {"paint"}, pour.from = SourceKind::piece, pour.source = {"mark"};
  pour.windows = {}, pour.fill_at.time = 0, pour.rate = 0, pour.colors = PourColors::piece;
  s.pours = {pour};
  s.run.detail = Detail::custom, s.run.cell_size = 0.006, s.film.frames = 4;
  return s;
}

}  // namespace

// IEC 61966-2-1: eight bits of sRGB are kept as they are.
TEST(Tint, KeepsColoursOfEightBits) {
  for (const int level : {0, 1, 7, 128, 200, 255}) {
    const double v = from_srgb(level / 255.0);
    const uint32_t tint = pack_tint({v, 0.5, 1 - v});
    EXPECT_NE(tint, 0u);
    EXPECT_NEAR(unpack_tint(tint)[0], v, 1e-6);
    EXPECT_EQ(pack_tint(to<double>(unpack_tint(tint))), tint);
  }
}

TEST(Palette, GoesByPlace) {
  Palette p;
  p.colors[0] = {1, 0, 0}, p.colors[1] = {0, 1, 0}, p.colors[2] = {0, 0, 1};
  EXPECT_EQ(p.at({3, 4, 5}), (Vec3d{1, 0, 0}));
  p.by = Palette::By::ramp, p.low = {0, 0.1, 0}, p.way = {0, 0.2, 0};
  EXPECT_LT(length(p.at({9, 0.2, 9}) - Vec3d{0.5, 0.5, 0}), 1e-12);
  EXPECT_EQ(p.at({0, -1, 0}), (Vec3d{1, 0, 0}));
  EXPECT_EQ(p.at({0, 1, 0}), (Vec3d{0, 1, 0}));
  // Of patches each colour has its share, and most places have one of them pure.
  p.by = Palette::By::patches, p.patch_size = 0.01;
  int pure = 0, of[3] = {};
  for (int i = 0; i < 4000; ++i) {
    const Vec3d c = p.at({i % 20 * 0.0037, i / 20 % 20 * 0.0041, i / 400 * 0.0043});
    for (int k = 0; k < 3; ++k)
      if (c[k] > 0.99) ++pure, ++of[k];
  }
  EXPECT_GT(pure, 2400);
  for (const int n : of) EXPECT_GT(n, 600);
}

TEST(BodyColors, AreThoseOfTheNearestPlace) {
  Body::Seen seen;
  seen.mesh = ball_mesh(0.05);
  for (const Vec3f& p : seen.mesh.points) seen.colors.push_back(p.x > 0 ? Vec3f{1, 0, 0} : Vec3f{0, 0, 1});
  const auto colors = colors_of(seen, "ball");
  ASSERT_TRUE(colors);
  EXPECT_EQ(colors->at({0.03, 0.01, 0}), (Vec3f{1, 0, 0}));
  EXPECT_EQ(colors->at({-0.2, 0.01, 0}), (Vec3f{0, 0, 1})) << "beside it, too";
  EXPECT_FALSE(colors_of({seen.mesh}, "grey"));
}

TEST(PourColours, AreLookedForInThePiece) {
  Shot s = falling_mark();
  const auto found = [](const Shot& shot) -> std::optional<Check> {
    for (const Check& c : check_shot(shot, "."))
      if (c.title.find("has no colours to take") != std::string::npos) return c;
    return std::nullopt;
  };
  EXPECT_FALSE(found(s)) << "a drawing has colours";
  s.pieces[0].shape = Ball{0.05};
  const auto check = found(s);
  ASSERT_TRUE(check);
  check->fix(s);
  EXPECT_FALSE(found(s));
}

class Colours : public Cli {};

TEST_F(Colours, LiquidHasThoseOfItsMarkInFramesAndAfterANewStart) {
  const fs::path file = folder / "mark.pour";
  save_shot(falling_mark(), file);
  pour::Run run = create_run(file, falling_mark());
  simulate(run, {});
  const auto looks_right = [](const LiquidPoints& p) {
    size_t red = 0, blue = 0;
    for (size_t i = 0; i < p.place.size(); ++i) {
      if (std::abs(p.place[i].x) < 0.004f) continue;
      const bool left = p.place[i].x < 0;
      EXPECT_EQ(p.color[i], (left ? Vec3f{1, 0, 0} : Vec3f{0, 0, 1}));
      ++(left ? red : blue);
    }
    EXPECT_GT(red, 100u);
    EXPECT_GT(blue, 100u);
  };
  looks_right(read_liquid(run.stored_frame(4)));
  pour::Run next = create_run(file, falling_mark());
  next.start = {"001", 2};
  simulate(next, {});
  looks_right(read_liquid(next.stored_frame(4)));
}
