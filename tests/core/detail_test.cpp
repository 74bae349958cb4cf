// What a draft shows is what a finer run will show.
#include <gtest/gtest.h>
#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include "core/tank.h"
#include "frames/liquid_frame.h"
#include "run/run_folder.h"
#include "run/simulate.h"
#include "shot/recipes.h"
#include "shot/shot_file.h"

namespace pour {
namespace {

namespace fs = std::filesystem;

/// The tea poured into a bowl, in this detail.
Run poured(const fs::path& folder, Detail detail) {
  Shot s = find_recipe("tea-into-a-bowl").make();
  s.run.detail = detail, s.film.frames = 60;
  fs::create_directories(folder);
  save_shot(s, folder / "tea.pour");
  Run run = create_run(folder / "tea.pour", s);
  simulate(run, {});
  return run;
}

using Pixels = std::set<std::pair<int, int>>;

/// Where liquid is seen from the front, in pixels of 4 mm.
Pixels silhouette(const LiquidPoints& points) {
  constexpr double pixel = 0.004, around = 0.003;  // m; as far as a point stands for
  Pixels out;
  for (const Vec3f& p : points.place)
    for (double dx = -around; dx <= around; dx += around / 2)
      for (double dy = -around; dy <= around; dy += around / 2)
        if (dx * dx + dy * dy <= around * around)
          out.insert(
              {int(std::floor((double(p.x) + dx) / pixel)), int(std::floor((double(p.y) + dy) / pixel))});
  return out;
}

double overlap(const Pixels& a, const Pixels& b) {
  Pixels both;
  std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::inserter(both, both.end()));
  return double(both.size()) / double(a.size() + b.size() - both.size());
}

/// How high the liquid stands: the mean of what is highest in each square of 5 mm around the middle.
double level(const LiquidPoints& points) {
  std::map<std::pair<int, int>, double> top;
  for (const Vec3f& p : points.place)
    if (std::hypot(p.x, p.z) < 0.035f) {
      double& t = top[{int(std::floor(p.x / 0.005f)), int(std::floor(p.z / 0.005f))}];
      t = std::max(t, double(p.y));
    }
  double sum = 0;
  for (const auto& [square, y] : top) sum += y;
  return sum / double(top.size());
}

/// How far the first of it has come down.
double front(const LiquidPoints& points) {
  float lowest = 1;
  for (const Vec3f& p : points.place) lowest = std::min(lowest, p.y);
  return 0.2 - double(lowest);  // the mouth is that high
}

}  // namespace

// Of one method in two cells: what an artist judges at draft has to come at final. Common practice, no
// source.
TEST(LongDetail, DraftAndMediumOfThePourAgree) {
  NEEDS_LONG;
  const fs::path folder = fs::path(testing::TempDir()) / ("detail" + std::to_string(getpid()));
  const pour::Run draft = poured(folder / "draft", Detail::draft),
                  fine = poured(folder / "medium", Detail::medium);
  const auto at = [](const pour::Run& run, int frame) { return read_liquid(run.stored_frame(frame)); };
  EXPECT_NEAR(front(at(draft, 4)) / front(at(fine, 4)), 1, 0.05);
  EXPECT_NEAR(level(at(draft, 60)) / level(at(fine, 60)), 1, 0.07) << "while it still swings";
  for (const int frame : {12, 24, 36, 48, 60})
    EXPECT_GT(overlap(silhouette(at(draft, frame)), silhouette(at(fine, frame))), 0.85) << "frame " << frame;
  // The books of the bowl, once there is more in it than the first few millilitres.
  for (int frame = 8; frame <= 60; ++frame) {
    const Ledger l = fine.record(frame)->flow("liquid").ledger;
    EXPECT_LT(std::abs(l.numeric), (frame < 20 ? 0.015 : 0.01) * l.poured) << "frame " << frame;
  }
  fs::remove_all(folder);
}

}  // namespace pour
