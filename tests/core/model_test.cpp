// Models from files: what the reader gives, what is refused, what becomes of surfaces that are not closed.
#include <gmock/gmock.h>
#include <OpenImageIO/imageio.h>

#include <numbers>

#include "base/base64.h"
#include "base/error.h"
#include "base/pixels.h"
#include "cgal_mesh.h"
#include "check/file_checks.h"
#include "check/light_checks.h"
#include "cli_fixture.h"
#include "picture/quick_picture.h"
#include "shape/hollows.h"
#include "shape/kinds/model.h"
#include "shape/level_set.h"
#include "shape/model_file.h"
#include "shape/near_surface.h"
#include "shape/turned_mesh.h"
#include "shot/arrival.h"
#include "shot/edit.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"
#include "trace/traced_set.h"

using namespace pour;
using testing::HasSubstr;

namespace {

std::string obj(const Mesh& m, const std::string& name = "thing") {
  std::string out = "o " + name + "\n";
  char line[128];
  for (const Vec3f& p : m.points)
    std::snprintf(line, sizeof line, "v %.7g %.7g %.7g\n", double(p.x), double(p.y), double(p.z)),
        out += line;
  for (const auto& t : m.triangles)
    std::snprintf(line, sizeof line, "f %d %d %d\n", t[0] + 1, t[1] + 1, t[2] + 1), out += line;
  return out;
}

class Models : public Cli {
 protected:
  fs::path put(const std::string& name, const std::string& text) {
    write_whole(folder / name, text);
    return folder / name;
  }
  Model model(const std::string& name, const std::string& text) {
    Model m;
    m.file = {name, std::make_shared<const std::string>(read_model(put(name, text)))};
    return m;
  }
  std::string problem(const std::string& name, const std::string& text) {
    try {
      (void)read_model(put(name, text));
    } catch (const Fault& f) {
      return f.what();
    }
    return "none";
  }
};

}  // namespace

// Wavefront OBJ and MTL, as their authors wrote them down (v. 3.0; from memory): vt from the lower left,
// map_Kd.
TEST_F(Models, TexturesComeWithTheModelAndAreSeen) {
  const auto picture = [&](const std::string& name, const std::vector<unsigned char>& rgb, int width) {
    const auto out = OIIO::ImageOutput::create(name);
    ASSERT_TRUE(out && out->open((folder / name).string(), {width, 1, 3, OIIO::TypeDesc::UINT8}));
    ASSERT_TRUE(out->write_image(OIIO::TypeDesc::UINT8, rgb.data()) && out->close());
  };
  picture("two.png", {255, 0, 0, 0, 0, 255}, 2);
  picture("green.png", {0, 255, 0}, 1);
  put("crate.mtl", "newmtl print\nKd 1 1 1\nmap_Kd two.png\n");
  const char* crate =
      "mtllib crate.mtl\no crate\n"
      "v -1 0 1\nv 1 0 1\nv 1 2 1\nv -1 2 1\nv -1 0 -1\nv 1 0 -1\nv 1 2 -1\nv -1 2 -1\n"
      "vt 0.25 0.2\nvt 0.75 0.2\nvt 0.75 0.8\nvt 0.25 0.8\nusemtl print\n"
      "f 1/1 2/2 3/3 4/4\nf 6/1 5/2 8/3 7/4\nf 2/1 6/2 7/3 3/4\n"
      "f 5/1 1/2 4/3 8/4\nf 4/1 3/2 7/3 8/4\nf 5/1 6/2 2/3 1/4\n";
  Shot s = find_recipe("a-jug-breathes").make();
  s.pieces.resize(1);
  Piece& p = s.pieces[0];
  p.shape = model("crate.obj", crate), p.position = {0, 0.1, 0}, p.turn = {}, p.scale = 1, p.holds = false;
  p.tracks.clear(), p.label = {};
  make_of(s, "pieces." + p.id, "paper");
  EXPECT_THAT(arrival_in_words(p.shape), HasSubstr("Textures: “two.png”"));
  const auto colors = picture_pieces(s).at(0).surface->colors;  // what quick pictures have
  ASSERT_FALSE(colors.empty());
  for (const Vec3f& c : colors) EXPECT_TRUE(c == (Vec3f{1, 0, 0}) || c == (Vec3f{0, 0, 1}));

  s.look.lights = light_sets()[0].make(), s.camera = {}, s.look.floor = false;
  s.pours.clear(), s.fluids.clear();
  s.camera.target = {0, 0.1, 0}, s.camera.distance = 0.6, s.camera.elevation = 0, s.camera.azimuth = 0;
  const auto seen = [&](int at) {
    PathTracer tracer(traced_set(s, 1, {}, {}), 32, 32);
    tracer.add(32);
    const Image image = tracer.picture();
    Vec3f sum;
    for (int y = 14; y < 18; ++y)
      for (int c = 0; c < 3; ++c) sum[c] += image.rgb[3 * size_t(y * 32 + at) + size_t(c)];
    return sum;
  };
  const Vec3f left = seen(12), right = seen(19);
  EXPECT_GT(left.x, 2 * left.z);
  EXPECT_GT(right.z, 2 * right.x);

  // A label where the model says.
  p.label.picture = {"green.png", std::make_shared<const std::string>(read_picture(folder / "green.png"))};
  p.label.place = LabelPlace::uv;
  EXPECT_GT(seen(12).y, 4 * seen(12).x);
  EXPECT_TRUE(light_checks(s).empty());
  p.shape = Ball{0.05};
  ASSERT_EQ(light_checks(s).size(), 1u) << "a ball has no texture coordinates";
  light_checks(s)[0].fix(s);
  EXPECT_EQ(p.label.place, LabelPlace::around);

  // What is not there is told, and what is no picture.
  fs::remove(folder / "two.png");
  EXPECT_THAT(arrival_in_words(model("crate.obj", crate)), HasSubstr("Left out"));
  put("two.png", "no picture");
  EXPECT_THAT(arrival_in_words(model("crate.obj", crate)), HasSubstr("Left out"));
}

// RFC 4648, §10: test vectors.
TEST(Base64, AsTheStandardHasIt) {
  const std::pair<const char*, const char*> vectors[] = {{"", ""},
                                                         {"f", "Zg=="},
                                                         {"fo", "Zm8="},
                                                         {"foo", "Zm9v"},
                                                         {"foob", "Zm9vYg=="},
                                                         {"fooba", "Zm9vYmE="},
                                                         {"foobar", "Zm9vYmFy"}};
  for (const auto& [bytes, letters] : vectors) {
    EXPECT_EQ(to_base64(bytes), letters);
    std::string back;
    EXPECT_TRUE(from_base64(letters, back));
    EXPECT_EQ(back, bytes);
  }
  std::string back;
  for (const char* wrong : {"Zg=", "Z===", "Zm9v!mFy", "Zg==Zg=="})
    EXPECT_FALSE(from_base64(wrong, back)) << wrong;
}

// Volume and area by CGAL, of what the reader gives of a file.
TEST_F(Models, KeepTheirShape) {
  Model m = model("ball.obj", obj(ball_mesh(2)));
  m.height = 0.4;
  const auto bodies = m.bodies({});
  ASSERT_EQ(bodies.size(), 1u);
  const CgalMesh mesh(bodies[0].mesh);
  EXPECT_TRUE(mesh.is_closed());
  const double volume = mesh.volume();
  EXPECT_NEAR(volume, 4.0 / 3 * std::numbers::pi * 0.008, 0.02 * volume);
  EXPECT_NEAR(bodies[0].mesh.bounds().size().y, 0.4, 1e-6);
}

TEST_F(Models, HaveParts) {
  Mesh a = box_mesh({1, 1, 1}), b = box_mesh({1, 1, 1});
  b.place({{}, {3, 0, 0}, 1});
  std::string two = obj(a, "left");
  std::string second = "o right\n";
  char line[128];
  for (const Vec3f& p : b.points)
    std::snprintf(line, sizeof line, "v %g %g %g\n", double(p.x), double(p.y), double(p.z)), second += line;
  for (const auto& t : b.triangles)
    std::snprintf(line, sizeof line, "f %d %d %d\n", t[0] + 9, t[1] + 9, t[2] + 9), second += line;
  Model m = model("two.obj", two + second);
  EXPECT_EQ(m.bodies({}).size(), 2u);
  m.part = "right";
  ASSERT_EQ(m.bodies({}).size(), 1u);
  EXPECT_NEAR(m.bodies({})[0].mesh.bounds().center().x, 1.5 * m.height, 1e-6);
  m.part = "middle";
  try {
    (void)m.bodies({});
    FAIL();
  } catch (const Fault& f) {
    EXPECT_THAT(f.what(), HasSubstr("“left”, “right”"));
  }
}

TEST_F(Models, InsideOutIsTurnedRound) {
  Mesh box = box_mesh({1, 1, 1});
  for (auto& t : box.triangles) std::swap(t[0], t[1]);
  EXPECT_NEAR(model("box.obj", obj(box)).bodies({})[0].mesh.volume(), std::pow(0.16, 3), 1e-6);
}

// A surface without thickness becomes a wall of the thickness that is asked for, on both sides of it.
TEST_F(Models, OpenSurfacesGetAWall) {
  Mesh sheet;
  sheet.points = {{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0, 1, 0}};
  sheet.triangles = {{0, 1, 2}, {0, 2, 3}};
  Model m = model("sheet.obj", obj(sheet));
  m.height = 0.1, m.wall = 0.004;
  const Mesh wall = m.bodies({})[0].mesh;
  EXPECT_TRUE(is_closed(wall));
  // A slab with round edges: A t + half a circle of t/2 along its edge, and a ball at the corners.
  const double r = 0.002, exact = 0.01 * 0.004 + 0.4 * std::numbers::pi * r * r / 2 +
                                  4.0 / 3 * std::numbers::pi * r * r * r;
  EXPECT_NEAR(wall.volume(), exact, 0.06 * exact);
  const LevelSet set(wall, 0.0005);
  EXPECT_NEAR(set.distance({0, 0, 0}), -0.0015, 0.0012);  // the band knows three cells
  EXPECT_GT(set.distance({0, 0, 0.004}), 0);
  EXPECT_EQ(m.bodies({})[0].seen->mesh.triangles.size(), 2u);  // what is seen is what came in
}

// A hull has nothing within: a box with an open side and a ball in it becomes one solid body around both.
TEST_F(Models, AWrapClosesWhatIsComplicated) {
  Mesh box = box_mesh({1, 1, 1});
  box.triangles.resize(10);
  Mesh ball = ball_mesh(0.2);
  box.append(ball);
  Model m = model("open.obj", obj(box));
  m.height = 0.1, m.wrap = 0.02;  // the open side is narrower than nothing would leave it
  const auto bodies = m.bodies({});
  ASSERT_EQ(bodies.size(), 1u);
  EXPECT_TRUE(is_closed(bodies[0].mesh));
  const Vec3d size = bodies[0].mesh.bounds().size();
  EXPECT_NEAR(size.x, 0.14, 0.004);
  EXPECT_GT(bodies[0].mesh.volume(), 0);
}

TEST_F(Models, AreTakenApart) {
  Mesh two = ball_mesh(0.5), other = ball_mesh(0.25);
  other.place({{}, {2, 0, 0}, 1});
  two.append(other);
  Shot s;
  (void)bring_in(s, put("two.obj", obj(two, "Pair")).string());
  ASSERT_EQ(s.pieces.size(), 1u);
  const std::string id = s.pieces[0].id;
  const auto volume = [&](size_t i) { return piece_mesh(s, s.pieces[i]).volume(); };
  const double whole = volume(0);
  EXPECT_EQ(take_apart(s, id).size(), 2u);
  ASSERT_EQ(s.pieces.size(), 2u);
  EXPECT_EQ(std::get<Model>(s.pieces[1].shape).part, "Pair/2");
  EXPECT_EQ(s.pieces[0].id, id) << "what pours out of it still does";
  EXPECT_NEAR(volume(0) + volume(1), whole, 1e-6 * whole);
  EXPECT_NEAR(volume(0) / volume(1), 8, 1e-3);
  EXPECT_NEAR(piece_mesh(s, s.pieces[1]).bounds().center().x - piece_mesh(s, s.pieces[0]).bounds().center().x,
              2 * std::get<Model>(s.pieces[0].shape).height, 1e-3)
      << "each stays where it was";
  EXPECT_THROW((void)take_apart(s, id), Fault) << "it is all of a piece";
}

// The inside of a jug is a part, up to its lip: of a bowl it is as large as the bowl's own profile turned.
TEST_F(Models, TheInsideOfAVesselIsAPartOfIt) {
  EXPECT_TRUE(hollows_of(ball_mesh(1)).empty());
  EXPECT_TRUE(hollows_of(box_mesh({1, 1, 1})).empty());
  // A can without a lid, with a wall of 4 mm.
  const Mesh can = vessel_mesh({{0, 0, 0}, {0.038, 0, 0}, {0.04, 0.002, 0}, {0.04, 0.12, 0}}, 0.004);
  const auto found = hollows_of(can);
  ASSERT_EQ(found.size(), 1u);
  double area = 0, highest = -1, outermost = 0;
  for (const int t : found[0]) {
    Mesh one{can.points, {can.triangles[size_t(t)]}};
    area += one.area();
    for (const int p : one.triangles[0]) {
      const Vec3f& q = can.points[size_t(p)];
      highest = std::max(highest, double(q.y)),
      outermost = std::max(outermost, std::hypot(double(q.x), double(q.z)));
    }
  }
  const double r = 0.038, deep = 0.118, inside = std::numbers::pi * r * r + 2 * std::numbers::pi * r * deep;
  EXPECT_NEAR(area / inside, 1, 0.12) << "the outermost of it sees more than half of the sky";
  EXPECT_LT(outermost, 0.041) << "nothing of the outside";
  EXPECT_GT(highest, 0.1);

  const Model m = model("can.obj", obj(can, "Can"));
  const auto parts = m.all_parts();
  EXPECT_THAT(parts_at(parts, {0, -0.055f, 0}), testing::Contains("Can^1"));
  EXPECT_THAT(parts_at(parts, {0.06f, 0, 0}), testing::Not(testing::Contains("Can^1")));
  EXPECT_TRUE(is_hollow("Can^1"));
  EXPECT_FALSE(is_hollow("Can/1") || is_hollow("Can") || is_hollow("x^"));
  ASSERT_EQ(named_part(parts, "Can^1").size(), 1u);
  EXPECT_EQ(named_part(parts, "Can^1")[0].mesh.triangles.size(), found[0].size());
  EXPECT_TRUE(named_part(parts, "Can^2").empty());
}

// A cube has six sides that edges part, a ball one, and a can three.
TEST_F(Models, PartsAreNamedByWhereTheyAre) {
  constexpr float crease = float(40 * std::numbers::pi / 180);
  EXPECT_EQ(sides_of(box_mesh({1, 1, 1}), crease).size(), 6u);
  EXPECT_EQ(sides_of(ball_mesh(1), crease).size(), 1u);
  EXPECT_EQ(sides_of(bodies_of(Shape(Cylinder()))->front().mesh, crease).size(), 3u);
  Mesh two = box_mesh({1, 1, 1}), other = box_mesh({0.5, 0.5, 0.5});
  other.place({{}, {2, 0, 0}, 1});
  two.append(other);
  const Model m =
      model("two.obj", obj(two, "Pair") + "o Floor\nv -9 -2 -9\nv 9 -2 -9\nv 0 -2 9\nf 17 18 19\n");
  const auto parts = m.all_parts();
  ASSERT_EQ(parts.size(), 2u);
  const Box box = parts[0].mesh.bounds();
  const auto names = parts_at(parts, to<float>(box.high));  // on the smaller box, at its right and upper end
  ASSERT_THAT(names, testing::ElementsAre("Pair", "Pair/2", testing::StartsWith("Pair:")));
  const auto side = named_part(parts, names[2]);
  ASSERT_EQ(side.size(), 1u);
  EXPECT_EQ(side[0].mesh.triangles.size(), 2u) << "a side of it";
  EXPECT_NEAR(side[0].mesh.area() * 24, named_part(parts, "Pair/1")[0].mesh.area(), 1e-6)
      << "a quarter of one of six sides of the larger";
  EXPECT_THAT(parts_at(parts, to<float>(parts[1].mesh.bounds().center())), testing::ElementsAre("Floor"));
}

TEST_F(Models, APartIsAPieceThatMovesWithTheWhole) {
  Mesh two = ball_mesh(0.5), other = box_mesh({1, 1, 1});
  other.place({{}, {2, 0, 0}, 1});
  two.append(other);
  Shot s;
  (void)bring_in(s, put("two.obj", obj(two, "Pair")).string());
  const std::string id = s.pieces[0].id;
  s.pieces[0].turn = {0, 1, 0.3}, s.pieces[0].scale = 1.5;
  const Mesh whole = piece_mesh(s, s.pieces[0]);
  const std::string path = add_part(s, id, "Pair/2");
  ASSERT_EQ(s.pieces.size(), 2u);
  EXPECT_EQ(path, "pieces." + s.pieces[1].id);
  EXPECT_FALSE(s.pieces[1].blocks || s.pieces[1].shows);
  EXPECT_NEAR(piece_mesh(s, s.pieces[0]).volume(), whole.volume(), 1e-12) << "the whole stays whole";
  const auto apart = [&] {
    const Mesh all = piece_mesh(s, s.pieces[0]), one = piece_mesh(s, s.pieces[1]);
    double furthest = 0;
    for (const Vec3f& p : one.points) {
      double nearest = 1e9;
      for (const Vec3f& q : all.points) nearest = std::min(nearest, double(length(p - q)));
      furthest = std::max(furthest, nearest);
    }
    return furthest;
  };
  EXPECT_LT(apart(), 1e-6);
  s.pieces[0].position = {0.3, 0.5, -0.2}, s.pieces[0].turn = {1, 0, 0};
  EXPECT_LT(apart(), 1e-6);
  EXPECT_THROW((void)add_part(s, id, "Lid"), Fault);
  EXPECT_GE(std::get<Model>(s.pieces[1].shape).wall, 3 * std::get<Model>(s.pieces[0].shape).wall)
      << "what pours out of it is not within the wall of the whole";
}

TEST_F(Models, AFileThatChangedIsNoticedAndTakenAnew) {
  const auto drawing = [](int width) {
    return "<svg viewBox='0 0 99 99'><rect width='" + std::to_string(width) + "' height='10'/></svg>";
  };
  Shot s;
  const fs::path mark = put("mark.svg", drawing(20)), box = put("box.obj", obj(box_mesh({1, 1, 1})));
  (void)bring_in(s, mark.string()), (void)bring_in(s, box.string()), (void)bring_in(s, box.string());
  EXPECT_EQ(files_of(s).size(), 2u);
  s = shot_from_json(shot_to_json(s), "a.pour");
  EXPECT_TRUE(file_checks(s).empty());
  put("mark.svg", drawing(40)), put("box.obj", obj(box_mesh({3, 1, 1})));
  std::get<Model>(s.pieces[1].shape).height = 0.05;
  const auto wide = [&](size_t i) { return piece_mesh(s, s.pieces[i]).bounds().size(); };
  EXPECT_NEAR(wide(0).x / wide(0).y, 2, 1e-3) << "the shot has its own copy";
  auto checks = file_checks(s);
  ASSERT_EQ(checks.size(), 2u) << "one for each file, however often it is used";
  EXPECT_THAT(checks[0].title, HasSubstr("mark.svg has changed"));
  for (const Check& c : checks) c.fix(s);
  EXPECT_NEAR(wide(0).x / wide(0).y, 4, 1e-3);
  for (const size_t i : {1u, 2u}) EXPECT_NEAR(wide(i).x / wide(i).y, 3, 1e-3);
  EXPECT_EQ(std::get<Model>(s.pieces[1].shape).height, 0.05) << "its settings stay";
  EXPECT_TRUE(file_checks(s).empty());
  fs::remove(mark);
  EXPECT_TRUE(file_checks(s).empty()) << "a file that is gone is none that changed";
  put("box.obj", "no model");
  checks = file_checks(s);
  ASSERT_EQ(checks.size(), 1u);
  const Shot before = s;
  EXPECT_THROW(checks[0].fix(s), Fault);
}

// Assimp's own sample models, as Debian's package assimp-testmodels has them; its viewers count the same
// triangles.
TEST_F(Models, ThoseOfAssimpComeInOrSayWhyNot) {
  // The largest take half of the time, and ./test long passes them.
  const size_t largest = std::getenv("EASY_POUR_LONG") ? 100'000 : 20'000;
  int in = 0, refused = 0;
  for (const char* format : {"OBJ", "PLY", "STL", "FBX", "glTF", "glTF2"}) {
    std::vector<fs::path> files;
    for (const auto& e : fs::recursive_directory_iterator(fs::path("/usr/share/assimp/models") / format)) {
      std::string suffix = e.path().extension().string();
      std::transform(suffix.begin(), suffix.end(), suffix.begin(),
                     [](char c) { return char(std::tolower(c)); });
      if (e.is_regular_file() && e.file_size() < largest &&
          std::string(".obj .ply .stl .fbx .gltf .glb").find(suffix) != std::string::npos &&
          suffix.size() > 3)
        files.push_back(e.path());
    }
    ASSERT_FALSE(files.empty()) << format;
    for (const fs::path& file : files) try {
        const Arrival arrival = read_arrival(file.string());
        EXPECT_FALSE(arrival_in_words(arrival.shape).empty());
        for (const Body& b : *bodies_of(arrival.shape)) {
          EXPECT_GE(b.mesh.volume(), 0) << file;
          EXPECT_TRUE(is_closed(b.mesh)) << file;
        }
        ++in;
      } catch (const Fault& f) {
        EXPECT_FALSE(f.problem.empty() || f.mend.empty()) << file;
        ++refused;
      }
  }
  EXPECT_GE(in, 50);
  EXPECT_LT(refused, 40) << "points, lines, and files that are broken on purpose";
}

TEST_F(Models, SmallHolesAreFilledAndUnitsAreGuessed) {
  Mesh ball = ball_mesh(40);  // 80 units high
  std::erase_if(ball.triangles, [&](const auto& t) { return ball.points[size_t(t[0])].y > 39.5f; });
  const Arrival arrival = read_arrival(put("ball.obj", obj(ball)).string());
  const auto& m = std::get<Model>(arrival.shape);
  EXPECT_EQ(m.open, Model::Open::filled);
  EXPECT_NEAR(m.height, 0.08, 0.001);
  const std::string words = arrival_in_words(arrival.shape);
  EXPECT_THAT(words, HasSubstr("taken as millimetres"));
  EXPECT_THAT(words, HasSubstr("filled as if their holes were closed"));
  const double r = 0.04;
  EXPECT_NEAR(bodies_of(arrival.shape)->front().mesh.volume() / (4.0 / 3 * std::numbers::pi * r * r * r), 1,
              0.03);
}

// Two boxes of which one stands half in the other: the edges of each go through sides of the other.
TEST_F(Models, WhatCrossesItselfIsSaid) {
  Mesh boxes = box_mesh({1, 1, 1}), other = box_mesh({0.5, 0.5, 0.5});
  EXPECT_EQ(NearSurface(boxes).crossings(), 0u);
  EXPECT_EQ(NearSurface(ball_mesh(0.05)).crossings(), 0u);
  other.place({Rotation::euler({0.2, 0.3, 0.1}), {0.5, 0.1, 0}, 1});
  boxes.append(other);
  EXPECT_GT(NearSurface(boxes).crossings(), 3u);
  EXPECT_THAT(arrival_in_words(read_arrival(put("boxes.obj", obj(boxes)).string()).shape),
              HasSubstr("crosses itself"));
}

TEST_F(Models, ReadingIsGivenUpWhenAsked) {
  const fs::path file = put("ball.obj", obj(ball_mesh(1, 6)));
  EXPECT_THROW((void)read_model(file, [] { return true; }), GivenUp);
}

TEST_F(Models, ShippedOneStandsInItsRecipe) {
  const Shot s = find_recipe("jar-out-of-smoke").make();
  const Model& jar = std::get<Model>(s.pieces.front().shape);
  ASSERT_TRUE(jar.file.bytes);
  EXPECT_FALSE(is_closed(jar.parts()[0].mesh));  // on purpose
  EXPECT_TRUE(is_closed(jar.bodies({})[0].mesh));
  EXPECT_TRUE(shot_from_json(shot_to_json(s), "a.pour") == s);
}

TEST_F(Models, WhatIsNoModelIsRefusedInWords) {
  EXPECT_THAT(problem("a.obj", ""), HasSubstr("could not be read"));
  EXPECT_THAT(problem("a.obj", "PK\x03\x04 zip"), HasSubstr("could not be read"));
  EXPECT_THAT(problem("a.obj", "v 0 0 0\nv 1 0 0\n"), HasSubstr("could not be read"));
  EXPECT_THAT(problem("a.obj", "v nan 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n"), HasSubstr("could not be read"));
  EXPECT_THAT(problem("a.ply", "ply\nformat ascii 1.0\nelement vertex 3\nprop"),
              HasSubstr("header has no end"));
  EXPECT_THAT(
      problem("a.ply", "ply\nformat ascii 1.0\nelement vertex 99999999\nproperty float x\nend_header\n"),
      HasSubstr("not as many elements"));
  EXPECT_THAT(problem("a.txt", "words"), HasSubstr("could not be read"));
  EXPECT_THAT(problem("a.stl", std::string(80, 'x') + "\xff\xff\xff\x7f"), HasSubstr("could not be read"));
  EXPECT_THAT(
      problem("a.gltf",
              R"({"asset":{"version":"2.0"},"buffers":[{"uri":"../../../../etc/passwd","byteLength":9}]})"),
      HasSubstr("could not be read"));
  EXPECT_THROW(read_model(folder / "absent.obj"), Fault);
}

TEST_F(Models, TornBytesAreNoted) {
  std::vector<ModelPart> parts(1);
  parts[0].name = "box", parts[0].mesh = box_mesh({1, 1, 1});
  const std::string good = pack_model(parts);
  EXPECT_EQ(pack_model(unpack_model(good, "m")), good);
  for (size_t n = 0; n < good.size(); n += 7) EXPECT_THROW(unpack_model(good.substr(0, n), "m"), Fault) << n;
  for (size_t i = 0; i < 400; ++i) {  // changed anywhere it is refused or another model, never a crash
    std::string bad = good;
    bad[(i * 37) % bad.size()] = char(i * 101);
    try {
      for (const ModelPart& p : unpack_model(bad, "m")) (void)p.mesh.volume();
    } catch (const Fault&) {
    }
  }
}

TEST_F(Models, AnyBytesOfAFileAreReadOrRefused) {
  const std::string good = obj(box_mesh({1, 2, 1}));
  uint32_t seed = 3;
  const auto next = [&] { return seed = seed * 1664525u + 1013904223u, seed >> 8; };
  for (int i = 0; i < 40; ++i) {
    std::string bad = good;
    for (int k = 0; k < 1 + i % 5; ++k) bad[next() % bad.size()] = char(next());
    if (i % 4 == 0) bad.resize(next() % bad.size());
    (void)problem("m" + std::to_string(i) + ".obj", bad);
  }
}

TEST_F(Models, FromTheCommandLine) {
  make();
  put("bar.obj", obj(box_mesh({2, 1, 1}), "bar"));
  const Result r = cli("import a.pour bar.obj --name Bar --size 12cm");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr("1 part, 12 triangles"));
  EXPECT_THAT(cli("show a.pour pieces.bar.file").out, HasSubstr("bar.obj"));
  fs::remove(folder / "bar.obj");
  EXPECT_EQ(cli("check a.pour").code, 0);
  EXPECT_EQ(cli("import a.pour bar.obj").code, 1);
  // Its level set: a box of 24 x 12 x 12 cm on cells of 5 mm has about that much surface, and no further
  // away.
  const Result set = cli("level-set a.pour bar --cell 5mm --out bar.vdb");
  ASSERT_EQ(set.code, 0) << set.out;
  EXPECT_THAT(set.out, HasSubstr("of 5 mm; its surface is at most"));
  const Result vdb = shell("vdb_print -l " + (folder / "bar.vdb").string());
  EXPECT_THAT(vdb.out, testing::AllOf(HasSubstr("surface"), HasSubstr("level set"), HasSubstr("0.005")));
  EXPECT_EQ(cli("level-set a.pour bar --cell 0.1mm --out fine.vdb").code, 1)
      << "of which there would be too many";
  EXPECT_THAT(cli("level-set a.pour baar --out x.vdb").out, HasSubstr("Did you mean “bar”"));
  ASSERT_EQ(cli("wrap a.pour bar --by 6mm").code, 0);
  EXPECT_THAT(cli("show a.pour pieces.bar.wrap").out, HasSubstr("6 mm"));
  EXPECT_EQ(cli("wrap a.pour word").code, 1);
  EXPECT_THAT(cli("part a.pour bar bar:3").out, HasSubstr("Added pieces.bar_3"));
  EXPECT_THAT(cli("show a.pour pieces.bar_3.parent").out, HasSubstr("bar"));
  EXPECT_EQ(cli("part a.pour bar lid").code, 1);
  put("bar.obj", obj(box_mesh({2, 2, 1}), "bar"));
  EXPECT_THAT(cli("check a.pour").out, HasSubstr("bar.obj has changed on disk"));
  EXPECT_THAT(cli("check a.pour --mend").out, HasSubstr("mended   bar.obj has changed"));
  EXPECT_THAT(cli("check a.pour").out, testing::Not(HasSubstr("bar.obj")));
  put("open.obj", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n");
  EXPECT_THAT(cli("inspect open.obj").out, HasSubstr("Not closed"));
  EXPECT_THAT(cli("inspect open.obj --json").out, HasSubstr("suggested_height"));
}
