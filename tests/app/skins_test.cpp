// Step five: the skins of a run are made once and kept.
#include <QLabel>

#include "app/window_fixture.h"
#include "time/time_strip.h"

using namespace pour;

TEST_F(Window, SkinsAreMadeAndKeptUntilTheyAreSetOtherwise) {
  window->document().edit("tea", [](Shot& s) {
    s = find_recipe("tea-into-a-bowl").make();
    s.run.detail = Detail::custom, s.run.cell_size = 0.008, s.film.frames = 4;
  });
  settle();
  window->document().open_step(5);
  ASSERT_TRUE(find("make_skins"));
  EXPECT_FALSE(find("make_skins")->isEnabled()) << "there is no run of it yet";
  run_to_the_end();
  window->document().open_step(5);
  const auto kept = [&](size_t n) {
    return QTest::qWaitFor([&] { return !window->skins().busy() && window->skins().kept().size() == n; }, 20000);
  };
  ASSERT_TRUE(QTest::qWaitFor([&] { return seen("make_skins") && seen("make_skins")->isEnabled(); }, 5000));
  auto* strip = find<TimeStrip>("time_strip");
  const QImage before = strip->grab().toImage();
  click("make_skins");
  ASSERT_TRUE(kept(4)) << window->skins().words().toStdString();
  EXPECT_TRUE(find<QLabel>("skins_kept")->text().contains("All 4"));
  EXPECT_FALSE(find("make_skins")->isEnabled()) << "all of them are there";
  EXPECT_NE(strip->grab().toImage(), before) << "they are seen beside the run";
  window->document().set("surface.grow", "1 mm");
  ASSERT_TRUE(kept(0));
  EXPECT_TRUE(find("make_skins")->isEnabled());
  window->document().undo();
  ASSERT_TRUE(kept(4)) << "those that are kept are those of this setting";
}
