// Finished pictures as files, read back by OpenImageIO and ffprobe.
#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <OpenImageIO/imageio.h>

#include <unistd.h>

#include <atomic>
#include <chrono>
#include <cmath>
#include <cstring>
#include <map>
#include <thread>

#include "base/error.h"
#include "base/srgb.h"
#include "cli_fixture.h"
#include "deliver/deliver.h"
#include "deliver/held.h"
#include "deliver/names.h"
#include "picture/image_file.h"
#include "run/run_folder.h"
#include "shot/shot_file.h"

using namespace pour;
using testing::AllOf;
using testing::HasSubstr;

namespace {

struct Read {
  OIIO::ImageSpec spec;
  std::vector<float> values;
  float at(int x, int y, const std::string& channel) const {
    const int c = spec.channelindex(channel);
    EXPECT_GE(c, 0) << channel;
    return values[size_t((y * spec.width + x) * spec.nchannels + std::max(0, c))];
  }
};

Read read(const fs::path& file) {
  Read out;
  const auto in = OIIO::ImageInput::open(file.string());
  EXPECT_TRUE(in) << file << OIIO::geterror();
  if (!in) return out;
  out.spec = in->spec();
  out.values.resize(size_t(out.spec.width) * size_t(out.spec.height) * size_t(out.spec.nchannels));
  EXPECT_TRUE(in->read_image(0, 0, 0, -1, OIIO::TypeDesc::FLOAT, out.values.data()));
  return out;
}

Image gradient() {
  Image image{16, 8, {}};
  for (int i = 0; i < 16 * 8; ++i)
    for (int c = 0; c < 3; ++c) image.rgb.push_back(float(i) * 0.03f * float(c + 1));
  return image;
}

class Deliver : public Cli {
 protected:
  void run_small(const std::string& more = "") {
    make("a.pour", more);
    ASSERT_EQ(cli("run a.pour --frames 1-8").code, 0);
  }
  fs::file_time_type time_of(const std::string& name) { return fs::last_write_time(folder / name); }
  std::string probe(const std::string& file, const std::string& entries) {
    return shell("cd " + folder.string() + " && ffprobe -v error -select_streams v -show_entries " + entries +
                 " -of default=nw=1 " + file)
        .out;
  }
};

}  // namespace

TEST(Names, SayShotRunAndFrame) {
  EXPECT_EQ(picture_name("{shot}.{frame:06}", "tea", 3, 42, true), "tea.000042");
  EXPECT_EQ(picture_name("{shot}_{run}_{frame:04}", "tea", 3, 42, true), "tea_3_0042");
  EXPECT_EQ(picture_name("{run:03} final", "tea", 3, 42, false), "003 final");
  for (const char* bad : {"{shot}", "{frame:x}", "{colour}.{frame}", "{frame", "a/{frame}", ""}) try {
      (void)picture_name(bad, "tea", 3, 42, true);
      ADD_FAILURE() << bad;
    } catch (const Fault& f) {
      EXPECT_EQ(f.blame, Blame::shot);
    }
}

// IEC 61966-2-1 for what is looked at; EXR keeps linear light as it is (half floats: 11 bits).
TEST_F(Deliver, FilesKeepWhatTheyAreGiven) {
  Image image = gradient();
  write_image(image, folder / "a.exr", Stills::exr, {"0123456789abcdef", 7, "piece 1 Bowl\n"},
              {{"light.key", {"R", "G", "B"}, image.rgb, true}, {"", {"Z"}, std::vector<float>(128, 1.25f)}});
  const Read exr = read(folder / "a.exr");
  EXPECT_EQ(exr.spec.format, OIIO::TypeDesc::FLOAT) << "the widest of its channels";
  for (int i = 0; i < 128; ++i) {
    const float want = image.rgb[size_t(3 * i) + 2];
    ASSERT_NEAR(exr.at(i % 16, i / 16, "B"), want, want / 1000 + 1e-6f) << "also what is brighter than white";
    ASSERT_NEAR(exr.at(i % 16, i / 16, "light.key.B"), want, want / 1000 + 1e-6f);
  }
  EXPECT_EQ(exr.at(5, 5, "Z"), 1.25f);
  const MadeFrom from = made_from(folder / "a.exr");
  EXPECT_EQ(from.inputs, "0123456789abcdef");
  EXPECT_EQ(from.samples, 7);
  EXPECT_EQ(from.parts, "piece 1 Bowl\n");

  write_image(image, folder / "a.png", Stills::png, {"0123456789abcdef", 7});
  const Read png = read(folder / "a.png");
  EXPECT_EQ(png.spec.nchannels, 3);
  EXPECT_NEAR(png.at(6, 0, "G"), to_srgb(0.36f), 1.01f / 255);
  EXPECT_EQ(made_from(folder / "a.png").inputs, "0123456789abcdef");
  write_image(image, folder / "a.jpg", Stills::jpeg, {"0123456789abcdef", 7});
  EXPECT_NEAR(read(folder / "a.jpg").at(6, 0, "G"), to_srgb(0.36f), 0.04f);
  EXPECT_EQ(made_from(folder / "a.jpg").samples, 7);
  EXPECT_EQ(made_from(folder / "nothing.png").inputs, "");

  // Half covered: PNG has the colour that covers, EXR light times alpha.
  image.alpha.assign(128, 0.5f);
  write_image(image, folder / "b.png", Stills::png);
  write_image(image, folder / "b.exr", Stills::exr);
  OIIO::ImageSpec as_it_is;
  as_it_is.attribute("oiio:UnassociatedAlpha", 1);
  const auto in = OIIO::ImageInput::open((folder / "b.png").string(), &as_it_is);
  std::vector<float> values(4 * 128);
  ASSERT_TRUE(in && in->read_image(0, 0, 0, -1, OIIO::TypeDesc::FLOAT, values.data()));
  EXPECT_NEAR(values[4 * 3 + 1], to_srgb(2 * 0.18f), 1.01f / 255);
  EXPECT_NEAR(values[4 * 3 + 3], 0.5, 1.01 / 255);
  EXPECT_NEAR(read(folder / "b.exr").at(3, 0, "G"), 0.18f, 1e-3f);
  EXPECT_NEAR(read(folder / "b.exr").at(3, 0, "A"), 0.5f, 1e-3f);
}

TEST(Display, ContrastTurnsAboutMiddleGrey) {
  Image image{3, 1, {0.18f, 0.18f, 0.18f, 0.36f, 0.36f, 0.36f, 0.09f, 0.09f, 0.09f}};
  const auto words = display_words(image);
  EXPECT_NEAR(words[0], to_srgb(0.18) * 65535, 1);
  image.contrast = 1.5f;
  const auto harder = display_words(image);
  EXPECT_EQ(harder[0], words[0]);
  EXPECT_NEAR(harder[3], to_srgb(0.18 * std::pow(2, 1.5)) * 65535, 2);
  EXPECT_NEAR(harder[6], to_srgb(0.18 * std::pow(0.5, 1.5)) * 65535, 2);
}

TEST_F(Deliver, PassesAreInOneFileAndAddUp) {
  run_small("look.backdrop=transparent look.floor=no look.halo=0");
  ASSERT_EQ(
      cli("render a.pour --frames 8-8 --size 48x27 --samples 4 --no-denoise --format passes --out p").code,
      0);
  const Read exr = read(folder / "p/a.000008.exr");
  double sum = 0, whole = 0, covered = 0, first = 0;
  for (int y = 0; y < 27; ++y)
    for (int x = 0; x < 48; ++x) {
      whole += double(exr.at(x, y, "G"));
      for (const char* light : {"backdrop.G", "light.key.G", "light.rim.G", "light.room.G"})
        sum += double(exr.at(x, y, light));
      covered += double(exr.at(x, y, "A"));
      first += exr.at(x, y, "piece") == 1 && exr.at(x, y, "Z") > 0.3f && exr.at(x, y, "position.Y") > 0;
      const float n = std::hypot(std::hypot(exr.at(x, y, "normal.X"), exr.at(x, y, "normal.Y")),
                                 exr.at(x, y, "normal.Z"));
      ASSERT_TRUE(n == 0 || std::abs(n - 1) < 0.01f);
    }
  EXPECT_NEAR(sum, whole, 0.01 * whole);
  EXPECT_GT(whole, 0);
  EXPECT_GT(covered, 1);
  EXPECT_LT(covered, 48 * 27 / 2) << "around the letters it is clear";
  EXPECT_GT(first, 5) << "the letters are piece 1";
  EXPECT_THAT(made_from(folder / "p/a.000008.exr").parts,
              AllOf(HasSubstr("piece 1 "), HasSubstr("fluid 1 ")));
  EXPECT_EQ(cli("picture a.pour --frames 8-8 --size 48x27 --format passes --out q").code, 1)
      << "quick pictures have none";
}

TEST_F(Deliver, WhatIsCurrentIsLeftAndNothingIsReplacedUnasked) {
  run_small();
  const std::string all = "picture a.pour --frames 1-4 --size 48x27 --name '{shot}_{run}_{frame:04}' --out p";
  ASSERT_EQ(cli(all).code, 0);
  ASSERT_TRUE(fs::exists(folder / "p/a_1_0004.png"));
  const auto before = time_of("p/a_1_0002.png");
  fs::remove(folder / "p/a_1_0003.png");  // as if it had been stopped there
  ASSERT_EQ(cli(all).code, 0);
  EXPECT_TRUE(fs::exists(folder / "p/a_1_0003.png"));
  EXPECT_EQ(time_of("p/a_1_0002.png"), before) << "it is made from the same";
  ASSERT_EQ(cli("set a.pour look.exposure=1").code, 0);
  const Result refused = cli(all);
  EXPECT_EQ(refused.code, 1);
  EXPECT_THAT(refused.out, AllOf(HasSubstr("a_1_0001.png"), HasSubstr("3 more"), HasSubstr("replaced")));
  EXPECT_EQ(time_of("p/a_1_0002.png"), before);
  ASSERT_EQ(cli(all + " --replace").code, 0);
  EXPECT_NE(time_of("p/a_1_0002.png"), before);
  EXPECT_EQ(cli("picture a.pour --frames 1-4 --size 48x27 --name same --out p").code, 1);
}

TEST_F(Deliver, PathsStopWhereGrainOrTimeSay) {
  run_small();
  const std::string common = "render a.pour --frames 8-8 --size 48x27 --out ";
  ASSERT_EQ(cli(common + "some --samples 256 --noise 40").code, 0);
  const int some = made_from(folder / "some/a.000008.png").samples;
  EXPECT_LT(some, 256);
  ASSERT_EQ(cli(common + "more --samples 256 --noise 1").code, 0);
  EXPECT_GT(made_from(folder / "more/a.000008.png").samples, some);
  // The number that was reached gives the same picture.
  ASSERT_EQ(cli(common + "again --samples " + std::to_string(some)).code, 0);
  EXPECT_EQ(read(folder / "again/a.000008.png").values, read(folder / "some/a.000008.png").values);
  ASSERT_EQ(cli(common + "timed --samples 60000 --seconds 0.1").code, 0);
  EXPECT_LT(made_from(folder / "timed/a.000008.png").samples, 65537);
}

TEST_F(Deliver, APictureThatWasStoppedGoesOnFromItsPaths) {
  run_small();
  const pour::Run run = load_run(folder / "a.runs/001");
  const Shot shot = load_shot(folder / "a.pour");
  DeliverOptions o = options_of(shot, {8, 8});
  o.width = 16, o.height = 9, o.samples = 64, o.noise = 0, o.stills = Stills::passes;
  ASSERT_TRUE(deliver_images(run, shot, folder / "whole", o));
  std::atomic<int> asked = 0;
  o.keep_going = [&] { return ++asked <= 20; };  // once a row: one path, three more, and a bit
  EXPECT_FALSE(deliver_images(run, shot, folder / "parts", o));
  const fs::path kept = folder / "parts/.a.000008.exr.part";
  ASSERT_TRUE(fs::exists(kept));
  EXPECT_FALSE(fs::exists(folder / "parts/a.000008.exr"));
  asked = 0;
  o.keep_going = [&] { return ++asked > 0; };
  ASSERT_TRUE(deliver_images(run, shot, folder / "parts", o));
  EXPECT_EQ(asked, 144) << "the other sixty, in sixteen portions";
  EXPECT_FALSE(fs::exists(kept));
  const Read whole = read(folder / "whole/a.000008.exr"), parts = read(folder / "parts/a.000008.exr");
  EXPECT_EQ(whole.spec.nchannels, parts.spec.nchannels);
  EXPECT_EQ(whole.values, parts.values) << "to the bit";

  // Of another picture, or torn, it is none.
  for (const bool torn : {false, true}) {
    asked = 0, o.keep_going = [&] { return ++asked <= 20; }, o.replace = true;
    o.samples = torn ? 65 : 66;
    EXPECT_FALSE(deliver_images(run, shot, folder / "parts", o));
    ASSERT_TRUE(fs::exists(kept));
    if (torn) fs::resize_file(kept, fs::file_size(kept) - 1);
    asked = 0, o.keep_going = [&] { return ++asked > 0; };
    if (!torn) o.samples = 67;
    ASSERT_TRUE(deliver_images(run, shot, folder / "parts", o));
    EXPECT_EQ(asked, 162) << "all of them";
  }
}

TEST(Video, SaysWhatItCannotHave) {
  Shot s;
  DeliverOptions o;
  o.samples = 16;
  EXPECT_EQ(lost_in_video(s, "a.mp4", o), "");
  s.look.backdrop = Backdrop::transparent;
  EXPECT_THAT(lost_in_video(s, "a.mp4", o), testing::HasSubstr("no transparency"));
  EXPECT_EQ(lost_in_video(s, "a.mov", o), "");
  o.samples = 0;
  EXPECT_THAT(lost_in_video(s, "a.mov", o), testing::HasSubstr("Quick pictures")) << "which never have it";
}

TEST_F(Deliver, VideosAreWhatTheirSuffixSays) {
  run_small("look.backdrop=transparent look.floor=no");
  const auto make_video = [&](const char* name) {
    return cli("deliver a.pour --frames 5-8 --size 64x36 --samples 1 --video " + std::string(name)).code;
  };
  const std::string entries =
      "stream=codec_name,pix_fmt,nb_read_frames,color_space,color_primaries,r_frame_rate:stream_tags=alpha_"
      "mode "
      "-count_frames";
  ASSERT_EQ(make_video("a.mp4"), 0);
  EXPECT_THAT(probe("a.mp4", entries), AllOf(HasSubstr("codec_name=h264"), HasSubstr("pix_fmt=yuv420p\n"),
                                             HasSubstr("nb_read_frames=4"), HasSubstr("color_space=bt709"),
                                             HasSubstr("r_frame_rate=24/1")));
  ASSERT_EQ(make_video("a.mov"), 0);
  EXPECT_THAT(probe("a.mov", entries),
              AllOf(HasSubstr("codec_name=prores"), HasSubstr("pix_fmt=yuva444p1"),
                    HasSubstr("nb_read_frames=4"), HasSubstr("color_primaries=bt709")));
  ASSERT_EQ(make_video("a.webm"), 0);
  EXPECT_THAT(probe("a.webm", entries),
              AllOf(HasSubstr("codec_name=vp9"), HasSubstr("ALPHA_MODE=1"), HasSubstr("nb_read_frames=4")));
  ASSERT_EQ(cli("set a.pour look.backdrop=studio").code, 0);
  ASSERT_EQ(make_video("b.mov"), 0);
  EXPECT_THAT(probe("b.mov", entries), HasSubstr("pix_fmt=yuv422p10le"));
  EXPECT_EQ(make_video("b.mov"), 1) << "it is there already";
  EXPECT_EQ(make_video("a.avi"), 1);
  EXPECT_EQ(cli("deliver a.pour --frames 5-8 --size 63x36 --video odd.webm").code, 1);
  EXPECT_FALSE(fs::exists(folder / "odd.webm"));
  // A sheet of five pictures of that size, in rows of three.
  ASSERT_EQ(cli("deliver a.pour --size 96x54 --samples 0 --sheet s.png --count 5").code, 0);
  EXPECT_EQ(read(folder / "s.png").spec.width, 3 * 96);
  EXPECT_EQ(read(folder / "s.png").spec.height, 2 * 54);
}

TEST_F(Deliver, AFilmThatLoopsFadesItsEndIntoItsBeginning) {
  run_small();
  const std::string common = "deliver a.pour --size 32x18 --samples 0 --format exr --images ";
  ASSERT_EQ(cli(common + "plain").code, 0);
  ASSERT_EQ(cli("set a.pour film.loop=2").code, 0);
  ASSERT_EQ(cli(common + "loop").code, 0);
  const int all = load_run(folder / "a.runs/001").last_frame;
  const auto image = [&](const std::string& of, int frame) {
    char name[16];
    std::snprintf(name, sizeof name, "%06d", frame);
    return read(folder / of / ("a." + std::string(name) + ".exr")).values;
  };
  EXPECT_EQ(std::distance(fs::directory_iterator(folder / "loop"), fs::directory_iterator()), all - 2);
  EXPECT_EQ(image("loop", 3), image("plain", 3)) << "after the fade";
  EXPECT_EQ(image("loop", all - 2), image("plain", all - 2)) << "the last one";
  for (const int frame : {1, 2}) {
    const auto mixed = image("loop", frame), begin = image("plain", frame),
               end = image("plain", all - 2 + frame);
    ASSERT_NE(begin, end);
    for (size_t i = 0; i < mixed.size(); ++i)
      ASSERT_NEAR(mixed[i], end[i] + (begin[i] - end[i]) * frame / 3, 2e-3f * (1 + end[i])) << "half floats";
  }
  ASSERT_EQ(cli("deliver a.pour --size 32x18 --samples 0 --video a.mp4").code, 0);
  EXPECT_THAT(probe("a.mp4", "stream=nb_read_frames -count_frames"),
              HasSubstr("nb_read_frames=" + std::to_string(all - 2)));
  EXPECT_THAT(cli(common + "part --frames 1-3").out, HasSubstr("does not loop"));
  EXPECT_THAT(cli("deliver a.pour --size 32x18 --samples 1 --format passes --images depth").out,
              HasSubstr("data passes"));
  ASSERT_EQ(cli("set a.pour film.loop=" + std::to_string(all)).code, 0);
  EXPECT_THAT(cli(common + "long").out, HasSubstr("longer than half of the film"));
}

TEST_F(Deliver, AFilmThatWasStoppedGoesOn) {
  run_small();
  const pour::Run run = load_run(folder / "a.runs/001");
  const Shot shot = load_shot(folder / "a.pour");
  DeliverOptions o = options_of(shot, {3, 8});
  o.width = 32, o.height = 18, o.samples = 4, o.noise = 0;
  ASSERT_TRUE(deliver_video(run, shot, folder / "whole.mp4", o));
  std::string said;
  o.notice = [&](const std::string& text) { said = text; };
  int last = 0;
  o.progress = [&](int done, int) { return (last = done) < 3; };
  EXPECT_FALSE(deliver_video(run, shot, folder / "parts.mp4", o));
  EXPECT_FALSE(fs::exists(folder / "parts.mp4"));
  const fs::path kept = folder / ".parts.mp4.frames";
  EXPECT_THAT(said, AllOf(HasSubstr(kept.string()), HasSubstr("kB")));
  const auto before = fs::last_write_time(kept / "000003.png");
  // One that was torn is made anew.
  fs::resize_file(kept / "000004.png", fs::file_size(kept / "000004.png") / 2);
  std::atomic<int> rows = 0;
  o.keep_going = [&] { return ++rows > 0; };
  o.progress = [&](int done, int) {
    if (done == 1) {
      EXPECT_EQ(fs::last_write_time(kept / "000003.png"), before);
      EXPECT_EQ(rows, 0) << "the first was kept";
    }
    return true;
  };
  ASSERT_TRUE(deliver_video(run, shot, folder / "parts.mp4", o));
  EXPECT_FALSE(fs::exists(kept)) << "nobody needs them any more";
  EXPECT_EQ(read_whole(folder / "parts.mp4"), read_whole(folder / "whole.mp4")) << "to the bit";
}

TEST_F(Deliver, TwoDeliveriesBlockEachOtherOnlyOverTheSameNames) {
  run_small();
  const std::string common = "deliver a.pour --frames 5-6 --size 32x18 --samples 0 --images out --name ";
  {
    const Held film({folder / "a.mp4"});
    EXPECT_THROW(Held({folder / "a.mp4"}), Fault);
    fs::create_directories(folder / "out");
    const Held picture({folder / "out/x_6.png"});
    const auto blocked = cli(common + "x_{frame}");
    EXPECT_EQ(blocked.code, 1);
    EXPECT_THAT(blocked.out, AllOf(HasSubstr("x_6.png"), HasSubstr("another delivery")));
    EXPECT_FALSE(fs::exists(folder / "out/x_5.png")) << "nothing is begun that can't be finished";
    EXPECT_EQ(cli(common + "y_{frame}").code, 0) << "in the same folder";
    EXPECT_EQ(cli("deliver a.pour --frames 5-6 --size 32x18 --samples 0 --video a.mp4").code, 1);
    EXPECT_EQ(cli("deliver a.pour --frames 5-6 --size 32x18 --samples 0 --video b.mp4").code, 0);
  }
  EXPECT_EQ(cli(common + "x_{frame}").code, 0);
  for (const auto& entry : fs::recursive_directory_iterator(folder))
    EXPECT_NE(entry.path().filename(), ".being-delivered") << "it goes with the last who holds something";
}

TEST_F(Deliver, FilesSayNoTimeAndNoPlace) {
  run_small("look.backdrop=transparent");
  const auto all_of = [&](const std::string& name, const std::string& threads) {
    EXPECT_EQ(cli("--threads " + threads +
                  " deliver a.pour --frames 5-8 --size 64x36 --samples 2 --format exr --images " + name +
                  " --video " + name + "/a.webm")
                  .code,
              0);
    EXPECT_EQ(cli("--threads " + threads + " deliver a.pour --frames 5-8 --size 64x36 --samples 2 --video " +
                  name + "/a.mp4")
                  .code,
              0);
    std::map<std::string, std::string> out;
    for (const auto& entry : fs::directory_iterator(folder / name))
      out[entry.path().filename()] = read_whole(entry.path());
    return out;
  };
  const auto first = all_of("first", "1");
  std::this_thread::sleep_for(std::chrono::milliseconds(1100));  // another second
  const auto second = all_of("second", "2");
  ASSERT_EQ(first.size(), 6u);
  for (const auto& [name, bytes] : first) {
    EXPECT_TRUE(second.at(name) == bytes) << name;
    EXPECT_EQ(bytes.find(folder.string()), std::string::npos) << name;
    char host[256] = {};
    ::gethostname(host, sizeof host - 1);
    if (std::strlen(host) > 3) {
      EXPECT_EQ(bytes.find(host), std::string::npos) << name;
    }
  }
}

TEST_F(Deliver, LightIsNeverNegativeOrEndless) {
  size_t mended = 0;
  EXPECT_EQ(as_light(-1, mended), 0);
  EXPECT_EQ(as_light(NAN, mended), 0);
  EXPECT_EQ(as_light(INFINITY, mended), 65504);
  EXPECT_EQ(mended, 3u);
  Image image{2, 1, {-1, 0.5f, 1e9f, NAN, 0, 1}};
  const std::vector<Channels> more{{"light.key", {"R", "G", "B"}, {INFINITY, -2, 1, 1, 1, 1}, true, true},
                                   {"velocity", {"X"}, {-3, 4}, true, false}};
  EXPECT_EQ(write_image(image, folder / "a.exr", Stills::exr, {}, more), 5u);
  const Read exr = read(folder / "a.exr");
  EXPECT_EQ(exr.at(0, 0, "R"), 0);
  EXPECT_EQ(exr.at(0, 0, "B"), 65504);
  EXPECT_EQ(exr.at(0, 0, "light.key.R"), 65504);
  EXPECT_EQ(exr.at(0, 0, "velocity.X"), -3) << "what is no light may be negative";
  run_small("look.exposure=20");
  const auto said = cli("render a.pour --frames 8 --size 32x18 --samples 2 --format passes --out bright");
  EXPECT_EQ(said.code, 0);
  EXPECT_THAT(said.out, HasSubstr("too bright for half floats"));
  for (const float v : read(folder / "bright/a.000008.exr").values) EXPECT_TRUE(std::isfinite(v));
}
