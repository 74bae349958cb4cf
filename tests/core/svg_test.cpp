// Drawings: path data, styles and strokes against closed formulas; what is wrong in a file is said.
#include <gmock/gmock.h>

#include <numbers>

#include "base/error.h"
#include "base/srgb.h"
#include "cgal_mesh.h"
#include "cli_fixture.h"
#include "gas_world.h"
#include "run/staging.h"
#include "shape/placed.h"
#include "shape/svg_path.h"
#include "shape/svg_style.h"
#include "shot/arrival.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::HasSubstr;

namespace {

using std::numbers::pi;

std::string svg(const std::string& inside, const std::string& box = "0 0 100 100") {
  return "<svg xmlns='http://www.w3.org/2000/svg' xmlns:xlink='http://www.w3.org/1999/xlink' viewBox='" +
         box + "'>" + inside + "</svg>";
}

/// In square units of the file; `parts` and `holes` of all of it.
double area_of(const std::string& inside, size_t parts = 1, size_t holes = 0) {
  const SvgDrawing d = read_svg(svg(inside), "Drawing");
  Box box;
  for (const auto& s : d.shapes)
    for (const auto& ring : s.rings)
      for (const Vec3d& p : ring) box.add(p);
  const Outline o = outline_of(d, box.size().y, "Drawing");
  double area = 0;
  size_t found = 0;
  for (const Outline::Part& p : o.parts) area += p.area(), found += p.holes.size();
  EXPECT_EQ(o.parts.size(), parts) << inside;
  EXPECT_EQ(found, holes) << inside;
  return area;
}

std::string problem(const std::string& text) {
  try {
    (void)outline_of(read_svg(text, "Drawing"), 1, "Drawing");
  } catch (const Fault& f) {
    return f.what();
  }
  return "none";
}

}  // namespace

// Closed formulas of plane geometry; the elements as SVG 1.1 (W3C 2011), chapters 8 to 11, has them.
TEST(Svg, BasicShapesHaveTheirAreas) {
  EXPECT_NEAR(area_of("<rect x='10' y='20' width='30' height='40'/>"), 1200, 0.5);
  EXPECT_NEAR(area_of("<rect width='40' height='20' rx='5'/>"), 800 - 4 * 25 + pi * 25, 0.5);
  EXPECT_NEAR(area_of("<circle cx='50' cy='50' r='20'/>"), pi * 400, 1.5);
  EXPECT_NEAR(area_of("<ellipse cx='50' cy='50' rx='30' ry='10'/>"), pi * 300, 1.5);
  EXPECT_NEAR(area_of("<polygon points='0,0 60,0 30 40'/>"), 1200, 0.5);
}

TEST(Svg, PathsInAllTheirWords) {
  // The same square in many ways.
  for (const char* d :
       {"M10 10H50V50H10Z", "m10,10 40,0 0,40-40 0z", "M10 10 50 10 50 50 10 50", "M10 10l4e1 0 0 40-40 0Z",
        "M 10,10 L 50,10 L 50,50 L 10,50 z M 90 90", "M10 10C20 10 40 10 50 10L50 50Q30 50 10 50Z"})
    EXPECT_NEAR(area_of("<path d='" + std::string(d) + "'/>"), 1600, 0.5) << d;
  // Under a parabola two thirds of its triangle's double (Archimedes): from 0 to 60 with its handle 40 above.
  EXPECT_NEAR(area_of("<path d='M0 50Q30 10 60 50Z'/>"), 2.0 / 3 * 60 * 20, 1);
  // Mirrored handles: a wave of T has as much above as below.
  EXPECT_NEAR(area_of("<path d='M0 50Q15 30 30 50T60 50Z'/>", 2), 2 * 2.0 / 3 * 30 * 10, 1);
  // Arcs by their flags; run together as the grammar lets them.
  EXPECT_NEAR(area_of("<path d='M10 50A20 20 0 0 1 50 50Z'/>"), pi * 200, 1);
  EXPECT_NEAR(area_of("<path d='M30 50a20 20 0 1120 20z'/>"), 0.75 * pi * 400 + 200, 2);
  EXPECT_NEAR(area_of("<path d='M30 50a20 20 0 0120 20z'/>"), 0.25 * pi * 400 - 200, 2);
  // Radii that are too small are made larger until they fit.
  EXPECT_NEAR(area_of("<path d='M10 50A1 1 0 0 1 50 50Z'/>"), pi * 200, 1);
  // What is wrong ends a path; what stands before it is drawn.
  EXPECT_NEAR(area_of("<path d='M10 10H50V50H10Z L x 20 20'/>"), 1600, 0.5);
}

TEST(Svg, FillRulesAndHoles) {
  const std::string both = "M0 0H60V60H0Z M20 20H40V40H20Z";
  EXPECT_NEAR(area_of("<path d='" + both + "'/>"), 3600, 1);
  EXPECT_NEAR(area_of("<path fill-rule='evenodd' d='" + both + "'/>", 1, 1), 3200, 1);
  EXPECT_NEAR(area_of("<path d='M0 0H60V60H0Z M20 20V40H40V20Z'/>", 1, 1), 3200, 1);  // the other way round
  // A hole of one shape is filled by another.
  EXPECT_NEAR(area_of("<path fill-rule='evenodd' d='" + both + "'/><circle cx='30' cy='30' r='5'/>", 2, 1),
              3200 + pi * 25, 1.5);
}

TEST(Svg, TransformsFollowEachOther) {
  EXPECT_NEAR(
      area_of("<g transform='scale(2)'><rect width='10' height='10' transform='rotate(30) skewX(20)'/></g>"),
      400, 0.5);
  const Affine t = parse_transform("translate(10 20) rotate(90 1 1) scale(2, 3)");
  const Vec3d p = t * Vec3d{1, 1, 0};
  EXPECT_NEAR(p.x, 10 + 1 - 2, 1e-12);
  EXPECT_NEAR(p.y, 20 + 1 + 1, 1e-12);
  EXPECT_NEAR(area_of("<defs><g id='a'><rect width='10' height='10'/></g></defs>"
                      "<use href='#a' x='20'/><use xlink:href='#a' x='50' transform='scale(1 2)'/>",
                      2),
              300, 0.5);
  EXPECT_NEAR(area_of("<symbol id='s' viewBox='0 0 10 10'><rect width='10' height='5'/></symbol>"
                      "<use href='#s' x='5' y='5' width='40' height='80'/>"),
              40 * 20, 0.5);
}

// Widths, caps, joins, miter limits and dashes: SVG 1.1 §11.4; areas by plane geometry.
TEST(Svg, StrokesBecomeTheirOutlines) {
  const std::string line = "<path fill='none' stroke='black' stroke-width='10' d='M20 50H80' ";
  EXPECT_NEAR(area_of(line + "/>"), 600, 0.5);
  EXPECT_NEAR(area_of(line + "stroke-linecap='square'/>"), 700, 0.5);
  EXPECT_NEAR(area_of(line + "stroke-linecap='round'/>"), 600 + pi * 25, 1);
  EXPECT_NEAR(area_of(line + "stroke-dasharray='10'/>", 3), 300, 0.5);
  // 5, 5, 5, 10 and 5 long, with 5, 10, 5 and 5 between them.
  EXPECT_NEAR(area_of(line + "stroke-dasharray='10 5 5' stroke-dashoffset='5'/>", 5), 300, 0.5);
  // Two lines share a square of half their width, and their corner adds to that.
  const std::string corner = "<path fill='none' stroke='black' stroke-width='10' d='M20 20H70V70' ";
  EXPECT_NEAR(area_of(corner + "/>"), 975 + 25, 0.5);
  EXPECT_NEAR(area_of(corner + "stroke-linejoin='bevel'/>"), 975 + 12.5, 0.5);
  EXPECT_NEAR(area_of(corner + "stroke-miterlimit='1.4'/>"), 975 + 12.5, 0.5);
  EXPECT_NEAR(area_of(corner + "stroke-linejoin='round'/>"), 975 + pi * 25 / 4, 0.5);
  EXPECT_NEAR(
      area_of("<rect fill='none' stroke='black' stroke-width='4' x='20' y='20' width='40' height='30'/>", 1,
              1),
      44 * 34 - 36 * 26, 0.5);
  // Fill and stroke are one shape.
  EXPECT_NEAR(area_of("<circle cx='50' cy='50' r='20' stroke='red' stroke-width='10'/>"), pi * 625, 2);
}

TEST(Svg, StylesAreInheritedAndOverruled) {
  const auto color_of = [](const std::string& inside) {
    return read_svg(svg(inside), "Drawing").shapes.at(0).color;
  };
  const std::string square = "width='10' height='10'/>";
  EXPECT_EQ(color_of("<rect " + square), (Vec3f{0, 0, 0}));
  EXPECT_EQ(color_of("<g fill='red'><rect " + square + "</g>"), (Vec3f{1, 0, 0}));
  EXPECT_EQ(color_of("<g fill='red'><rect style='fill: lime' fill='blue' " + square + "</g>"),
            (Vec3f{0, 1, 0}));
  EXPECT_EQ(color_of("<style>.a{fill:#00f} rect{fill:red} #i.a{fill:rgb(0 255 0)}</style><rect class='b a' " +
                     square),
            (Vec3f{0, 0, 1}));
  EXPECT_EQ(color_of("<style><![CDATA[ .a, #i { fill: #0F0 } ]]></style><rect fill='red' id='i' " + square),
            (Vec3f{0, 1, 0}));
  EXPECT_EQ(color_of("<g color='blue'><rect fill='currentColor' " + square + "</g>"), (Vec3f{0, 0, 1}));
  EXPECT_EQ(color_of("<linearGradient id='g'><stop stop-color='red'/><stop offset='1' stop-color='blue'/>"
                     "</linearGradient><rect fill='url(#g)' " +
                     square),
            (Vec3f{0.5f, 0, 0.5f}));
  // sRGB by IEC 61966-2-1: half of it is 0.214 in linear light.
  EXPECT_NEAR(svg_color("rgb(50%, 50%, 50%)")->x, 0.2140, 1e-3);
  EXPECT_EQ(svg_color("no colour"), std::nullopt);
  // What isn't seen isn't there.
  for (const char* hidden : {"fill='none'", "display='none'", "visibility='hidden'", "opacity='0'",
                             "fill-opacity='0'", "style='display:none'"})
    EXPECT_THAT(problem(svg("<rect " + std::string(hidden) + " width='9' height='9'/>")),
                HasSubstr("nothing"));
}

// The stroke of a circle is one ring without seams: area π (R² − r²).
TEST(Svg, AClosedStrokeIsOnePart) {
  const SvgDrawing d =
      read_svg(svg("<circle cx='50' cy='50' r='44' fill='none' stroke='red' stroke-width='9'/>"), "a.svg");
  const Outline o = outline_of(d, 0.1, "a.svg");
  ASSERT_EQ(o.parts.size(), 1u);
  EXPECT_EQ(o.parts[0].holes.size(), 1u);
  const double unit = 0.1 / 97, area = std::numbers::pi * (48.5 * 48.5 - 39.5 * 39.5) * unit * unit;
  EXPECT_NEAR(o.parts[0].area(), area, 1e-3 * area);
}

// SVG 1.1, chapter 13: colours are mixed as sRGB encodes them, along a vector in the shape's own box or in
// user space.
TEST(Svg, GradientsRunAcrossTheirShapes) {
  const auto red_at = [](const std::string& gradient, double x, double y) {
    const SvgDrawing d = read_svg(
        svg("<defs>" + gradient + "</defs><rect x='20' y='30' width='10' height='10' fill='url(#g)'/>"),
        "a.svg");
    return to_srgb(double(colors_of(d, 10).at(x - 25, 35 - y).x));
  };
  const std::string stops = "<stop stop-color='black'/><stop offset='100%' stop-color='red'/>";
  const auto linear = [&](const std::string& with) {
    return "<linearGradient id='g' " + with + ">" + stops + "</linearGradient>";
  };
  constexpr double close = 0.01;
  EXPECT_NEAR(red_at(linear(""), 22.5, 35), 0.25, close);
  EXPECT_NEAR(red_at(linear("x2='0' y2='1'"), 22.5, 38), 0.8, close) << "downwards";
  EXPECT_NEAR(red_at(linear("gradientTransform='rotate(90)'"), 22.5, 38), 0.8, close);
  EXPECT_NEAR(red_at(linear("gradientUnits='userSpaceOnUse' x1='24' x2='26'"), 24.5, 35), 0.25, close);
  EXPECT_NEAR(red_at(linear("gradientUnits='userSpaceOnUse' x1='24' x2='26'"), 29, 35), 1, close) << "pad";
  EXPECT_NEAR(red_at(linear("x2='.2' spreadMethod='repeat'"), 25, 35), 0.5, close);
  EXPECT_NEAR(red_at(linear("x2='.2' spreadMethod='reflect'"), 23.5, 35), 0.25, close);
  EXPECT_NEAR(red_at("<linearGradient id='h'>" + stops + "</linearGradient>" +
                         "<linearGradient id='g' href='#h' x1='1' x2='0'/>",
                     22.5, 35),
              0.75, close)
      << "with the stops of another one";
  const std::string radial = "<radialGradient id='g'>" + stops + "</radialGradient>";
  EXPECT_NEAR(red_at(radial, 25, 35), 0, 0.02);
  EXPECT_NEAR(red_at(radial, 27.5, 35), 0.5, close);
  EXPECT_NEAR(red_at("<radialGradient id='g' fx='0.3'>" + stops + "</radialGradient>", 21.5, 35), 0.5, close)
      << "half of the way from the focus to the circle";
}

TEST(Svg, ColoursLieWhereTheyWerePainted) {
  const SvgDrawing d =
      read_svg(svg("<rect width='100' height='100' fill='red'/><rect width='50' height='100' fill='blue'/>"
                   "<circle cx='75' cy='25' r='10' fill='lime'/>"),
               "Drawing");
  const ColorMap m = colors_of(d, 2);  // from -1 to 1
  EXPECT_EQ(m.at(-0.5, 0.2), (Vec3f{0, 0, 1}));
  EXPECT_EQ(m.at(0.5, -0.5), (Vec3f{1, 0, 0}));
  EXPECT_EQ(m.at(0.5, 0.5), (Vec3f{0, 1, 0}));  // above: y goes up in the set
  EXPECT_EQ(m.at(-1.01, 0), (Vec3f{0, 0, 1}));  // what lies at the edge has a colour too
}

TEST(Svg, WhatIsWrongIsSaid) {
  EXPECT_THAT(problem(""), HasSubstr("is no XML"));
  EXPECT_THAT(problem("<svg><path"), HasSubstr("at byte"));
  EXPECT_THAT(problem("PK\x03\x04"), HasSubstr("is no XML"));
  EXPECT_THAT(problem("<html><body/></html>"), HasSubstr("begins with <html>"));
  EXPECT_THAT(problem(svg("<text>A</text><image href='a.png'/>")), HasSubstr("left out: image, text"));
  EXPECT_THAT(problem(svg("<path d='M1e300 0H1e308V5Z'/>")), HasSubstr("too far away"));
  EXPECT_THAT(problem(svg("<path d='M nan 0 L 5 5'/>")), HasSubstr("nothing"));
  EXPECT_THAT(problem(svg("<use id='a' href='#a'/>")), HasSubstr("too deeply"));
  EXPECT_THAT(problem(svg("<g id='a'><rect width='1' height='1'/><use href='#a'/></g>")),
              HasSubstr("too deeply"));
  EXPECT_THAT(problem(svg("<rect width='5' height='5'/><use href='/etc/passwd#a'/>")), "none");
  // Entities are not expanded, however they multiply.
  std::string bomb = "<!DOCTYPE svg [<!ENTITY a 'aaaaaaaaaa'>";
  for (char c = 'b'; c < 'k'; ++c)
    bomb +=
        std::string("<!ENTITY ") + c + " '&" + char(c - 1) + ";&" + char(c - 1) + ";&" + char(c - 1) + ";'>";
  EXPECT_EQ(problem(bomb + "]><svg><rect width='5' height='5' class='&j;'/></svg>"), "none");
  // Ten times ten times ten uses end before they fill the memory.
  std::string uses = "<rect id='u0' width='1' height='1'/>";
  for (int i = 1; i < 8; ++i) {
    uses += "<g id='u" + std::to_string(i) + "'>";
    for (int k = 0; k < 10; ++k) uses += "<use href='#u" + std::to_string(i - 1) + "'/>";
    uses += "</g>";
  }
  EXPECT_THAT(problem(svg(uses)), HasSubstr("20,000"));
}

TEST(Svg, AnyBytesAreReadOrRefused) {
  const std::string good = read_whole(fs::path(EASY_POUR_SOURCE) / "demo/marks/oddlark-bird.svg");
  uint32_t seed = 7;
  const auto next = [&] { return seed = seed * 1664525u + 1013904223u, seed >> 8; };
  for (int i = 0; i < 300; ++i) {
    std::string bad = good;
    for (int k = 0; k < 1 + i % 7; ++k) bad[next() % bad.size()] = char(next());
    if (i % 5 == 0) bad.resize(next() % bad.size());
    try {
      (void)outline_of(read_svg(bad, "Drawing"), 0.1, "Drawing");
    } catch (const Fault&) {
    }
  }
}

// Volume by CGAL; of an outline given depth without bevels it is area times depth.
TEST(Mark, IsASolidOfItsAreaTimesItsDepth) {
  Mark m;
  m.bevel = 0, m.depth = 0.02, m.height = 0.1;
  double area = 0;
  for (const Outline::Part& p :
       outline_of(read_svg(m.drawing.content(), "Drawing"), m.height, "Drawing").parts)
    area += p.area();
  double volume = 0;
  for (const Body& b : m.bodies({})) {
    const CgalMesh mesh(b.mesh);
    EXPECT_TRUE(mesh.is_closed());
    volume += mesh.volume();
  }
  EXPECT_NEAR(volume, area * m.depth, 1e-4 * volume);
  Box box;
  for (const Body& b : m.bodies({})) box.add(b.mesh.bounds());
  EXPECT_NEAR(box.size().y, m.height, 1e-5);
}

TEST(Mark, IsKeptWholeInTheFileOfTheShot) {
  Shot s = recipes().front().make();
  const std::string path = bring_in(s, svg("<rect width='20' height='10' fill='red'/>"), "Block");
  const Shot again = shot_from_json(shot_to_json(s), "a.pour");
  EXPECT_TRUE(again == s);
  EXPECT_THAT(arrival_in_words(again.pieces.back().shape), HasSubstr("1 part, 32 cm wide and 16 cm high"));
  EXPECT_THROW(bring_in(s, "/nowhere/at/all.svg"), Fault);
  EXPECT_TRUE(again == s);
}

TEST(Mark, ItsSmokeHasItsColours) {
  Shot s;
  s.pieces.push_back({});
  Piece& p = s.pieces.back();
  Mark m;
  m.drawing = {
      "two",
      std::make_shared<const std::string>(svg(
          "<rect width='50' height='100' fill='red'/><rect x='50' width='50' height='100' fill='blue'/>"))};
  m.height = 0.2, m.depth = 0.05, m.bevel = 0;
  p.id = "mark", p.shape = m, p.holds = p.shows = false, p.position = {0.3, 0.5, 0};
  p.turn = {0, 0, std::numbers::pi / 2};  // red, which was on the left, is below
  s.fluids = {{.id = "smoke"}};
  Pour pour;
  pour.id = "pour", pour.fluid = {"smoke"}, pour.from = SourceKind::piece, pour.source = {"mark"};
  pour.fill_at.time = 0, pour.colors = PourColors::piece;
  s.pours = {pour};
  const Staging staging(s);
  const auto fills = staging.fills(FlowKind::gas, -1, 0);
  ASSERT_EQ(fills.size(), 1u);
  EXPECT_EQ(fills[0].color_at({0.3, 0.45, 0}), (Vec3d{1, 0, 0}));
  EXPECT_EQ(fills[0].color_at({0.3, 0.55, 0}), (Vec3d{0, 0, 1}));
}

class Import : public Cli {};

TEST_F(Import, FromTheCommandLine) {
  make();
  write_whole(folder / "bar.svg", svg("<rect width='30' height='10'/><text>x</text>"));
  const Result r = cli("import a.pour bar.svg --name Bar --part holds,shows --size 12cm");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr("36 cm wide and 12 cm high; left out: text"));
  EXPECT_THAT(cli("show a.pour pieces.bar").out, HasSubstr("pieces.bar.drawing = bar.svg"));
  EXPECT_THAT(cli("show a.pour pieces.bar.holds").out, HasSubstr("yes"));
  // It is in the shot, whatever becomes of the file.
  fs::remove(folder / "bar.svg");
  EXPECT_EQ(cli("check a.pour").code, 0);
  EXPECT_EQ(cli("import a.pour bar.svg").code, 1);
  write_whole(folder / "bad.svg", "<svg><text>no</text></svg>");
  EXPECT_THAT(cli("import a.pour bad.svg").out, HasSubstr("Turn text and effects into paths"));
  EXPECT_EQ(cli("set a.pour pieces.bar.drawing=bad.svg").code, 0);  // a shot may be unfinished
  EXPECT_EQ(cli("check a.pour").code, 1);
  write_whole(folder / "hole.svg", svg("<path fill-rule='evenodd' d='M0 0H20V10H0Z M5 2H15V8H5Z'/>"));
  EXPECT_THAT(cli("inspect hole.svg --json").out, HasSubstr("\"closed\": true"));
}
