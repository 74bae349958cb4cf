// The whole way through easy-pour-cli, as a script or a render farm takes it, with other programs reading
// what it wrote.
#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <OpenImageIO/imageio.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fstream>
#include <thread>

#include "base/file.h"
#include "core/cli_fixture.h"
#include "frames/smoke_frame.h"
#include "run/checkpoint.h"
#include "run/job_line.h"
#include "run/run_folder.h"

using namespace pour;
using testing::HasSubstr;

TEST_F(Cli, ThingsAreNamedByPathIdOrNameInAnyCase) {
  ASSERT_EQ(cli("new tea-into-a-bowl --out a.pour").code, 0);
  EXPECT_EQ(cli("rename a.pour BOWL Basin").code, 0);
  EXPECT_EQ(cli("duplicate a.pour basin").code, 0);
  EXPECT_EQ(cli("settle a.pour 'basin 2' floor").code, 0);
  EXPECT_EQ(cli("remove a.pour 'Basin 2'").code, 0);
  // The id of a fluid that is the id of a pour too.
  const Result r = cli("remove a.pour tea");
  EXPECT_EQ(r.code, 1) << r.out;
  EXPECT_THAT(r.out, testing::AllOf(testing::HasSubstr("fluids.tea"), testing::HasSubstr("pours.tea")));
  EXPECT_EQ(cli("aim a.pour Tea '0 cm, 3 cm, 0 cm'").code, 0) << "of pours there is one";
  EXPECT_THAT(cli("remove a.pour bowll").out, testing::HasSubstr("is not in this shot"));
}

TEST_F(Cli, AnotherWordIsBroughtIntoThePicture) {
  make();
  const auto distance = [&] { return cli("show a.pour camera.distance").out; };
  const std::string before = distance();
  EXPECT_EQ(cli("set a.pour pieces.word.text=O").code, 0);
  EXPECT_EQ(distance(), before) << "a word that fits moves nothing";
  EXPECT_THAT(cli("set a.pour pieces.word.text=ODDLARK-AND-SONS").out,
              testing::HasSubstr("Moved the camera"));
  EXPECT_NE(distance(), before);
  EXPECT_THAT(cli("check a.pour").out, testing::Not(testing::HasSubstr("reaches out of the picture")));
  EXPECT_EQ(cli("set a.pour camera.distance='20 cm'").code, 0);
  EXPECT_EQ(cli("frame a.pour").code, 0);
  EXPECT_THAT(cli("check a.pour").out, testing::Not(testing::HasSubstr("reaches out of the picture")));
  EXPECT_EQ(cli("set a.pour camera.distance@1='2 m'").code, 0);
  EXPECT_EQ(cli("frame a.pour").code, 1) << "its keys would go before";
}

TEST_F(Cli, ARunIsResumedWithItsOwnCells) {
  make();
  ASSERT_EQ(cli("run a.pour --frames 1-3").code, 0);
  EXPECT_EQ(cli("run a.runs/001 --resume --cell 4mm").code, 0);
  const Result r = cli("run a.runs/001 --resume --cell 3mm");
  EXPECT_EQ(r.code, 2);
  EXPECT_THAT(r.out, testing::HasSubstr("4 mm"));
  // A sheet of pictures of the size that is said.
  ASSERT_EQ(cli("deliver a.pour --sheet sheet.png --count 3 --size 160x90 --samples 0").code, 0);
  const auto sheet = OIIO::ImageInput::open((folder / "sheet.png").string());
  ASSERT_TRUE(sheet);
  EXPECT_EQ(sheet->spec().width, 320);
  EXPECT_EQ(sheet->spec().height, 180);
}

TEST_F(Cli, AShotWithoutFaultsIsToldToBeWell) {
  make();
  const std::string checked = cli("check a.pour").out;
  EXPECT_THAT(checked, testing::HasSubstr("All is well"));
  for (const char* detail : {"Draft: ", "Medium: ", "Final: ", "of memory"})
    EXPECT_THAT(checked, testing::HasSubstr(detail)) << "what a run will cost";
}

TEST_F(Cli, FromAWordToAVideo) {
  make();
  const Result run = cli("run a.pour --progress json");
  ASSERT_EQ(run.code, 0) << run.out;
  EXPECT_THAT(run.out, HasSubstr("\"done\":16,\"of\":16"));
  EXPECT_THAT(run.out, HasSubstr("\"end\":\"done\""));

  // A table with a line for each frame whose ledger adds up.
  const Result table = cli("measure a.runs/001");
  EXPECT_THAT(
      table.out,
      testing::StartsWith(
          "frame,time_s,cells,particles,drops,poured,decayed,drained,left,numeric,in_shot,centroid_x,"
          "centroid_y,"
          "centroid_z,max_speed,kinetic_energy,max_divergence,solver_iterations,substeps,wall_s,peak_rss\n"));
  EXPECT_EQ(std::count(table.out.begin(), table.out.end(), '\n'), 17);
  const pour::Run r = load_run(folder / "a.runs/001");
  const Ledger& l = r.frames.back().smoke().ledger;
  EXPECT_GT(l.in_shot, 0);
  EXPECT_LT(std::abs(l.gap()), 1e-6 * l.poured);
  EXPECT_LT(std::abs(l.numeric), 0.01 * l.poured) << "at most a hundredth may be the scheme's own";

  // vdb_print (openvdb-tools) reads the frames.
  const Result vdb = shell("vdb_print -l " + (folder / "a.runs/001/frames/000016.vdb").string());
  for (const char* grid : {"density", "temperature", "color", "velocity"})
    EXPECT_THAT(vdb.out, HasSubstr(grid)) << vdb.out;

  // ffprobe reads the video: frames, size, rate, codec.
  ASSERT_EQ(cli("deliver a.runs/001 --video a.mp4 --size 320x180").code, 0);
  const Result probe = shell(
      "ffprobe -v error -count_frames -show_entries "
      "stream=codec_name,width,height,r_frame_rate,nb_read_frames,pix_fmt -of csv=p=0 " +
      (folder / "a.mp4").string());
  EXPECT_EQ(probe.out, "h264,320,180,yuv420p,24/1,16\n");

  // OpenImageIO reads the pictures.
  ASSERT_EQ(cli("picture a.pour --frames 15-16 --size 320x180 --out pics").code, 0);
  const auto image = OIIO::ImageInput::open((folder / "pics/a.000016.png").string());
  ASSERT_TRUE(image);
  EXPECT_EQ(image->spec().width, 320);
  EXPECT_EQ(image->spec().height, 180);
  EXPECT_EQ(image->spec().nchannels, 3);
  EXPECT_EQ(std::distance(fs::directory_iterator(folder / "pics"), fs::directory_iterator{}), 2);

  // Or what the smoke does, in colours.
  ASSERT_EQ(cli("picture a.pour --frames 16 --size 320x180 --show speed --out speeds").code, 0);
  EXPECT_NE(read_whole(folder / "speeds/a.000016.png"), read_whole(folder / "pics/a.000016.png"));
  EXPECT_EQ(cli("picture a.pour --show colour --out speeds").code, 2);
}

TEST_F(Cli, RunsAreComparedAndTheirSettingsComeBack) {
  make();
  ASSERT_EQ(cli("run a.pour --frames 1-6").code, 0);
  const std::string heat = cli("show a.pour pours.mint.warmth").out;
  ASSERT_EQ(cli("set a.pour pours.mint.warmth=90°C look.exposure=1.5").code, 0);
  ASSERT_EQ(cli("run a.pour --frames 1-5").code, 0);
  const Result r = cli("compare a.runs/001 a.runs/002 --frames 5 --size 160x90 --out both");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_THAT(r.out, HasSubstr("Warmth 20 °C → 90 °C"));
  EXPECT_THAT(r.out, testing::Not(HasSubstr("xposure"))) << "a run does not depend on it";
  EXPECT_THAT(r.out, HasSubstr("frame 5"));
  const auto image = OIIO::ImageInput::open((folder / "both/a.000005.png").string());
  ASSERT_TRUE(image);
  EXPECT_EQ(image->spec().width, 320);
  EXPECT_EQ(image->spec().height, 90);
  EXPECT_EQ(cli("compare a.runs/001 a.runs/002 --frames 6 --out both").code, 2) << "one of them ends before";

  ASSERT_EQ(cli("use a.pour a.runs/001").code, 0);
  EXPECT_EQ(cli("show a.pour pours.mint.warmth").out, heat);
  EXPECT_THAT(cli("show a.pour look.exposure").out, HasSubstr("= 1.5"));
  EXPECT_EQ(cli("use a.pour a.runs/007").code, 1);
}

TEST_F(Cli, KilledAndResumedIsTheSameToTheBitAtAnyThreadCount) {
  constexpr int frames = 48;  // so many that it is not over before it can be killed
  make();
  ASSERT_EQ(cli("set a.pour film.frames=48").code, 0);
  ASSERT_EQ(cli("run a.pour --threads 1").code, 0);
  // The same again, killed without warning once a checkpoint and a few frames are there.
  const pid_t child = fork();
  if (child == 0) {
    if (chdir(folder.c_str())) _exit(9);
    freopen("/dev/null", "w", stdout);
    execl(EASY_POUR_CLI, EASY_POUR_CLI, "run", "a.pour", "--threads", "2", nullptr);
    _exit(9);
  }
  const fs::path second = folder / "a.runs/002";
  for (int i = 0; i < 3000; ++i) {
    if (fs::exists(second / "checkpoint") && fs::exists(second / "frames/000005.vdb")) break;
    std::this_thread::sleep_for(std::chrono::milliseconds(10));
  }
  kill(child, SIGKILL);
  int status = 0;
  waitpid(child, &status, 0);
  ASSERT_TRUE(WIFSIGNALED(status)) << "it was over before it could be killed";
  ASSERT_FALSE(fs::exists(second / "frames/000048.vdb"));
  const Result resumed = cli("run a.pour --resume --threads 2");
  ASSERT_EQ(resumed.code, 0) << resumed.out;
  for (int f = 1; f <= frames; ++f)
    EXPECT_EQ(bytes("a.runs/001", f), bytes("a.runs/002", f)) << "frame " << f;
  const pour::Run a = load_run(folder / "a.runs/001"), b = load_run(second);
  ASSERT_EQ(a.frames.size(), b.frames.size());
  for (size_t i = 0; i < a.frames.size(); ++i)
    EXPECT_EQ(a.frames[i].smoke().ledger.in_shot, b.frames[i].smoke().ledger.in_shot) << i;
  EXPECT_EQ(b.state, RunState::done);
}

TEST_F(Cli, AFullDiskKeepsWholeFrames) {
  make();
  // The largest file this process may write stands in for the disk: the checkpoint hits it in mid-run.
  const Result r =
      shell("cd " + folder.string() + " && trap '' XFSZ && ulimit -f 400 && " EASY_POUR_CLI " run a.pour");
  EXPECT_EQ(r.code, 3) << r.out;
  EXPECT_THAT(r.out, HasSubstr("could not be written"));
  const pour::Run run = load_run(folder / "a.runs/001");
  EXPECT_EQ(run.state, RunState::failed);
  EXPECT_THAT(run.message, HasSubstr("could not be written"));
  for (const FrameRecord& f : run.frames) EXPECT_NO_THROW(read_frame(run.frame_file(f.frame))) << f.frame;
  for (const auto& e : fs::recursive_directory_iterator(folder / "a.runs"))
    EXPECT_THAT(e.path().filename().string(), testing::Not(testing::StartsWith(".writing")));
  EXPECT_EQ(cli("run a.pour --resume").code, 0) << "with room again it goes on";
}

TEST_F(Cli, SettingsAreSetAndShown) {
  make();
  EXPECT_EQ(cli("set a.pour forces.gravity=0 pours.mint.warmth=35°C pieces.word.depth='3 cm'").code, 0);
  EXPECT_EQ(cli("show a.pour forces.gravity").out, "forces.gravity.strength = 0 m/s²\n");
  EXPECT_EQ(cli("show a.pour pieces.word.depth").out, "pieces.word.depth = 3 cm\n");
  const Result wrong = cli("set a.pour forces.gravty=0");
  EXPECT_EQ(wrong.code, 1);
  EXPECT_THAT(wrong.out, HasSubstr("forces.gravity"));
  EXPECT_EQ(cli("set a.pour forces.gravity=heavy").code, 1);
  EXPECT_EQ(cli("set a.pour forces.gravity").code, 2);
  EXPECT_EQ(cli("show a.pour forces.gravity").out, "forces.gravity.strength = 0 m/s²\n")
      << "a refused change changes nothing";
}

TEST_F(Cli, FaultsHaveTheirCodes) {
  EXPECT_EQ(cli("").code, 2);
  EXPECT_EQ(cli("fly").code, 2);
  EXPECT_EQ(cli("new fill-a-wrd --out b.pour").code, 2);
  EXPECT_EQ(cli("run missing.pour").code, 1);
  EXPECT_EQ(cli("new fill-a-word --text '' --out b.pour").code, 1);
  EXPECT_EQ(cli("new fill-a-word --font 'No Such Font' --out b.pour").code, 1);
  EXPECT_FALSE(fs::exists(folder / "b.pour"));
  EXPECT_EQ(cli("new fill-a-word --out /no/such/folder/b.pour").code, 3);
  make();
  EXPECT_EQ(cli("run a.pour --frames 9-3").code, 2);
  EXPECT_EQ(cli("run a.pour --resume").code, 1) << "nothing was left unfinished";
  EXPECT_EQ(cli("measure a.pour").code, 1) << "no run yet";
  EXPECT_EQ(cli("picture a.runs/001 --out p").code, 1);
  EXPECT_FALSE(fs::exists(folder / "a.runs")) << "a run that can't start leaves nothing behind";
  std::ofstream(folder / "bad.pour") << "{ not a shot";
  const Result bad = cli("run bad.pour");
  EXPECT_EQ(bad.code, 1);
  EXPECT_THAT(bad.out, HasSubstr("bad.pour"));
  // Ten kilometres of text: refused before anything is computed, with a size that would do.
  EXPECT_EQ(cli("set a.pour pieces.word.letter_height='100 m' pieces.word.text=" + std::string(90, 'M')).code,
            0);
  const Result far = cli("run a.pour --cell 5mm");
  EXPECT_EQ(far.code, 1);
  EXPECT_THAT(far.out, HasSubstr("Use cells of"));
}

TEST_F(Cli, TornAndMissingFramesAreNamed) {
  make();
  ASSERT_EQ(cli("run a.pour --frames 1-6").code, 0);
  const fs::path frame = folder / "a.runs/001/frames/000004.vdb";
  fs::resize_file(frame, fs::file_size(frame) / 3);
  Result r = cli("picture a.runs/001 --frames 4-4 --size 160x90 --out p");
  EXPECT_EQ(r.code, 1);
  EXPECT_THAT(r.out, HasSubstr("missing or torn: 4."));
  fs::remove(frame);
  r = cli("deliver a.runs/001 --video v.mp4 --size 160x90");
  EXPECT_EQ(r.code, 1) << "no shorter film instead";
  EXPECT_THAT(r.out, testing::AllOf(HasSubstr("missing or torn: 4."), HasSubstr("Resume")));
  EXPECT_FALSE(fs::exists(folder / "v.mp4"));
  ASSERT_EQ(cli("deliver a.runs/001 --video v.mp4 --images p --size 160x90 --hold-missing").code, 0);
  EXPECT_EQ(read_whole(folder / "p/a.000004.png"), read_whole(folder / "p/a.000003.png"));
  const Result probe =
      shell("ffprobe -v error -count_frames -show_entries stream=nb_read_frames -of csv=p=0 " +
            (folder / "v.mp4").string());
  EXPECT_EQ(probe.out, "6\n") << "as long as it should be";
}

TEST_F(Cli, EveryRecipeRuns) {
  for (const char* recipe : {"fill-a-word", "around-a-word", "rising-smoke"}) {
    ASSERT_EQ(
        cli(std::string("new ") + recipe +
            " --replace --out r.pour --set film.frames=6 --set run.detail=custom --set run.cell_size=12mm")
            .code,
        0);
    const Result r = cli("run r.pour");
    EXPECT_EQ(r.code, 0) << recipe << r.out;
    const auto runs = list_runs(folder / "r.pour").runs;
    ASSERT_FALSE(runs.empty());
    EXPECT_GT(runs.front().frames.back().smoke().ledger.in_shot, 0) << recipe;
    EXPECT_LT(std::abs(runs.front().frames.back().smoke().ledger.gap()),
              1e-5 * runs.front().frames.back().smoke().ledger.poured)
        << recipe;
    fs::remove_all(folder / "r.runs");
  }
}

TEST_F(Cli, TheReferenceOfSettingsIsUpToDate) {
  EXPECT_EQ(cli("settings").out, read_whole(fs::path(EASY_POUR_SOURCE) / "docs/settings.md"))
      << "easy-pour-cli settings > docs/settings.md";
}

TEST_F(Cli, SaysWhatItCanDo) {
  const Result help = cli("--help");
  EXPECT_EQ(help.code, 0);
  for (const char* verb : {"recipes", "fonts", "settings", "new", "set", "show", "check", "run", "measure",
                           "picture", "deliver"}) {
    EXPECT_THAT(help.out, HasSubstr(verb));
    EXPECT_EQ(cli(std::string(verb) + " --help").code, 0) << verb;
  }
  EXPECT_THAT(cli("recipes").out, testing::AllOf(HasSubstr("fill-a-word"), HasSubstr("around-a-word"),
                                                 HasSubstr("rising-smoke")));
  EXPECT_THAT(cli("fonts").out, HasSubstr("League Spartan Bold  (shipped)\n"));
}

TEST_F(Cli, MakesShotsWithWordFontAndSettings) {
  const Result r =
      cli("new fill-a-word --text Ölå --font 'Inter Bold' --out b --set film.frame_rate=25 "
          "pieces.word.depth='3 cm'");
  ASSERT_EQ(r.code, 0) << r.out;
  EXPECT_EQ(cli("show b.pour pieces.word.text").out, "pieces.word.text = Ölå\n") << "the ending is added";
  EXPECT_EQ(cli("show b.pour pieces.word.font").out, "pieces.word.font = Inter Bold\n");
  EXPECT_EQ(cli("show b.pour film.frame_rate").out, "film.frame_rate = 25\n");
  const Result group = cli("show b.pour forces");
  EXPECT_THAT(group.out,
              testing::AllOf(HasSubstr("forces.gravity"), testing::Not(HasSubstr("film.frame_rate"))));
}

TEST_F(Cli, ChecksSayWhatWillGoWrong) {
  make();
  EXPECT_EQ(cli("check a.pour").code, 0);
  ASSERT_EQ(cli("set a.pour pours.mint.windows=90-120").code, 0);
  const Result late = cli("check a.pour");
  EXPECT_EQ(late.code, 0) << "a warning is no fault";
  EXPECT_THAT(late.out, testing::AllOf(HasSubstr("Mint smoke never pours"), HasSubstr("Mend it: ")));
  ASSERT_EQ(cli("set a.pour pieces.word.font='Inter Bold' pieces.word.text=水").code, 0);
  const Result fault = cli("check a.pour");
  EXPECT_EQ(fault.code, 1);
  EXPECT_THAT(fault.out, HasSubstr("水"));
}

TEST_F(Cli, DetailAndCellAreForOneRunOnly) {
  make();
  const std::string before = read_whole(folder / "a.pour");
  ASSERT_EQ(cli("run a.pour --cell 8mm --frames 2-3").code, 0);
  const pour::Run r = load_run(folder / "a.runs/001");
  EXPECT_DOUBLE_EQ(r.cell_size, 0.008);
  EXPECT_FALSE(r.has_frame(1));
  EXPECT_TRUE(r.has_frame(3));
  EXPECT_EQ(read_whole(folder / "a.pour"), before);
  EXPECT_EQ(cli("run a.pour --cell 8flies").code, 1);
  EXPECT_EQ(cli("run a.pour --detail superb").code, 1);
  EXPECT_EQ(cli("run a.pour --progress loud").code, 2);
  EXPECT_EQ(cli("run a.pour --threads 0").code, 2);
}

TEST_F(Cli, StoppedPolitelyItKeepsACheckpoint) {
  make("a.pour", "film.frames=200");
  const Result r = shell("cd " + folder.string() + " && timeout -s TERM 3 " EASY_POUR_CLI " run a.pour");
  EXPECT_THAT(r.out, HasSubstr("Stopped; go on with --resume"));
  const pour::Run run = load_run(folder / "a.runs/001");
  EXPECT_EQ(run.state, RunState::stopped);
  EXPECT_TRUE(has_checkpoint(run));
  EXPECT_TRUE(run.has_frame(run.frames.back().frame));
}

TEST_F(Cli, AReadOnlyShotCanBeLookedAtButNotChanged) {
  make();
  fs::permissions(folder / "a.pour", fs::perms::owner_read | fs::perms::others_read);
  fs::permissions(folder, fs::perms::owner_read | fs::perms::owner_exec | fs::perms::others_read |
                              fs::perms::others_exec);
  // No permission stops root, so root asks somebody else to try.
  const std::string as = geteuid() == 0 ? "setpriv --reuid 65534 --regid 65534 --clear-groups " : "";
  const auto try_to = [&](const std::string& arguments) {
    return shell("cd " + folder.string() + " && HOME=/tmp " + as + EASY_POUR_CLI " " + arguments);
  };
  EXPECT_EQ(try_to("show a.pour film.frame_rate").out, "film.frame_rate = 24\n");
  const Result r = try_to("set a.pour film.frame_rate=25");
  EXPECT_EQ(r.code, 3) << r.out;
  EXPECT_THAT(r.out, HasSubstr("a.pour"));
  EXPECT_EQ(try_to("run a.pour").code, 3);
  EXPECT_EQ(try_to("show a.pour film.frame_rate").out, "film.frame_rate = 24\n");
  fs::permissions(folder, fs::perms::owner_all);
}

TEST_F(Cli, PicturesTakeTheLookOfTheShotAsItIsNow) {
  make();
  ASSERT_EQ(cli("run a.pour --frames 1-2").code, 0);
  ASSERT_EQ(cli("picture a.runs/001 --frames 2-2 --size 64x36 --out dark").code, 0);
  ASSERT_EQ(cli("set a.pour look.exposure=2").code, 0);
  ASSERT_EQ(cli("picture a.runs/001 --frames 2-2 --size 64x36 --out bright").code, 0);
  const auto mean = [&](const std::string& name) {
    const auto in = OIIO::ImageInput::open((folder / name).string());
    std::vector<uint8_t> bytes(64 * 36 * 3);
    in->read_image(0, 0, 0, 3, OIIO::TypeDesc::UINT8, bytes.data());
    double sum = 0;
    for (const uint8_t b : bytes) sum += b;
    return sum / double(bytes.size());
  };
  EXPECT_GT(mean("bright/a.000002.png"), 1.3 * mean("dark/a.000002.png"));
  EXPECT_EQ(cli("picture a.runs/001 --size 8x8 --out p").code, 2);
  EXPECT_EQ(cli("picture a.runs/001 --size wide --out p").code, 2);
  EXPECT_EQ(cli("deliver a.runs/001").code, 2) << "nothing to make";
  EXPECT_EQ(cli("deliver a.runs/001 --video v.mp4 --size 65x36").code, 1) << "odd widths";
  EXPECT_EQ(cli("deliver a.runs/001 --video /no/such/v.mp4 --size 64x36").code, 3);
}

// The delivered colours: ffmpeg's own decoder and its Rec. 709 matrix, against the PNG of the same frame.
TEST_F(Cli, TheVideoHasThePicturesColours) {
  make();
  ASSERT_EQ(cli("run a.pour --frames 1-12").code, 0);
  ASSERT_EQ(cli("deliver a.runs/001 --frames 12-12 --video v.mp4 --images pics --size 320x180").code, 0);
  ASSERT_EQ(
      shell("ffmpeg -v error -y -i " + (folder / "v.mp4").string() + " " + (folder / "v.png").string()).code,
      0);
  const auto pixels = [&](const fs::path& file) {
    const auto in = OIIO::ImageInput::open((folder / file).string());
    std::vector<uint8_t> bytes(320 * 180 * 3);
    in->read_image(0, 0, 0, 3, OIIO::TypeDesc::UINT8, bytes.data());
    return bytes;
  };
  const auto video = pixels("v.png"), image = pixels("pics/a.000012.png");
  double square = 0, mean[2][3] = {};
  for (size_t i = 0; i < image.size(); ++i) {
    square += std::pow(double(video[i]) - image[i], 2);
    mean[0][i % 3] += video[i] / (320.0 * 180), mean[1][i % 3] += image[i] / (320.0 * 180);
  }
  EXPECT_GT(10 * std::log10(255 * 255 / (square / double(image.size()))), 30) << "peak signal to noise, dB";
  for (int c = 0; c < 3; ++c) EXPECT_NEAR(mean[0][c], mean[1][c], 2.5) << "channel " << c;
}

TEST_F(Cli, PiecesComeGoAndAreRenamed) {
  ASSERT_EQ(cli("new fill-a-word --out a").code, 0);
  EXPECT_THAT(cli("kinds").out,
              testing::AllOf(HasSubstr("turned"), HasSubstr("profile, wall"), HasSubstr("smoke")));
  const Result added = cli("add a.pour ring --name 'Big ring' radius='12 cm' blocks=yes position@1='0,0,0'");
  EXPECT_EQ(added.code, 0) << added.out;
  EXPECT_EQ(added.out, "Added pieces.big_ring\n");
  EXPECT_EQ(cli("show a.pour pieces.big_ring.radius").out, "pieces.big_ring.radius = 12 cm\n");
  EXPECT_EQ(cli("show a.pour pieces.big_ring.position").out,
            "pieces.big_ring.position = 1: 0 cm, 0 cm, 0 cm\n");
  EXPECT_EQ(cli("rename a.pour pieces.big_ring 'Small ring'").code, 0);
  EXPECT_EQ(cli("show a.pour pieces.big_ring.name").out, "pieces.big_ring.name = Small ring\n");
  EXPECT_EQ(cli("add a.pour smoke --name Amber").code, 0);
  EXPECT_EQ(cli("show a.pour pours.amber.fluid").out, "pours.amber.fluid = amber\n");
  EXPECT_EQ(cli("remove a.pour fluids.amber").code, 0);
  EXPECT_NE(cli("show a.pour pours.amber.fluid").code, 0) << "its pour went with it";
  EXPECT_THAT(cli("remove a.pour pieces.big_rin").out, HasSubstr("pieces.big_ring"));
  EXPECT_THAT(cli("add a.pour rign").out, HasSubstr("Did you mean “ring”"));
  EXPECT_THAT(cli("set a.pour pieces.big_ring.attached_to=big_ring").out, HasSubstr("moves with itself"));
  EXPECT_EQ(cli("remove a.pour pieces.big_ring").code, 0);
}

TEST_F(Cli, KeysAreSetAndShown) {
  ASSERT_EQ(cli("new fill-a-word --out a").code, 0);
  ASSERT_EQ(cli("set a.pour gas.density_lift@1=0 gas.density_lift@24='-1 linear'").code, 0);
  EXPECT_THAT(cli("set a.pour film.capture=48").out, HasSubstr("Density lift (keys)"))
      << "which keep their seconds";
  EXPECT_EQ(cli("show a.pour gas.density_lift").out, "gas.density_lift = 1: 0 smooth, 47: -1\n");
  EXPECT_THAT(cli("set a.pour gas.density_lift=3").out, HasSubstr("gas.density_lift@FRAME=VALUE"));
  EXPECT_EQ(cli("set a.pour gas.density_lift@47=").code, 0);
  EXPECT_EQ(cli("show a.pour gas.density_lift").out, "gas.density_lift = 1: 0\n");
}

// Slow motion: the same states as the shot at a higher rate, to the byte where the sub-steps are the same.
TEST_F(Cli, SlowMotionIsTheSameShotAtAHigherRate) {
  const std::string small = " film.frames=9 run.detail=custom run.cell_size=6mm pours.mint.windows=1-40";
  ASSERT_EQ(cli("new fill-a-word --text O --out fast --set film.frame_rate=48" + small).code, 0);
  ASSERT_EQ(cli("new fill-a-word --text O --out slow --set film.frame_rate=24 film.capture=48" + small).code,
            0);
  for (const char* name : {"fast", "slow"}) ASSERT_EQ(cli("run " + std::string(name) + ".pour").code, 0);
  const auto frame = [&](const char* name) {
    return read_whole(folder / (std::string(name) + ".runs/001/frames/000009.vdb"), size_t(1) << 30);
  };
  EXPECT_EQ(frame("fast"), frame("slow"));
}

// Both shots that move, coarse and short: what solids sweep goes to the gas beside them, and what a room
// holds stays in it.
TEST_F(Cli, WhatMovesKeepsItsSmoke) {
  const std::string coarse = " --set film.frames=40 run.detail=custom run.cell_size=";
  ASSERT_EQ(cli("new word-out-of-smoke --text I --out a" + coarse + "2cm").code, 0);
  ASSERT_EQ(cli("new letters-fly-in --text IL --out b" + coarse + "5mm").code, 0);
  for (const std::string name : {"a", "b"}) {
    const Result r = cli("run " + name + ".pour");
    ASSERT_EQ(r.code, 0) << r.out;
    const pour::Run run = load_run(folder / (name + ".runs/001"));
    const FrameRecord& last = run.frames.back();
    EXPECT_EQ(last.frame, 40);
    EXPECT_GT(last.smoke().ledger.poured, 0);
    EXPECT_LT(std::abs(last.smoke().ledger.numeric), 0.02 * last.smoke().ledger.poured) << name;
    EXPECT_NEAR(last.smoke().ledger.gap(), 0, 1e-5 * last.smoke().ledger.poured) << name;
    // A frame that was lost is computed again, to the byte.
    const auto frame = [&](int f) { return read_whole(run.frame_file(f), size_t(1) << 30); };
    const std::string before = frame(25);
    fs::remove(run.frame_file(25));
    ASSERT_EQ(cli("--threads 1 run --resume " + name + ".runs/001").code, 0);
    EXPECT_TRUE(frame(25) == before);
  }
  const pour::Run b = load_run(folder / "b.runs/001");
  const Ledger& ledger = b.frames.back().smoke().ledger;
  EXPECT_NEAR(ledger.in_shot, ledger.poured, 1e-5 * ledger.poured);
  const auto volumes = read_frame(b.stored_frame(30), true);
  ASSERT_EQ(volumes.size(), 3u) << "all that stands, and a volume for each letter that moves";
  EXPECT_FALSE(volumes[1].pose == volumes[2].pose);
  EXPECT_GT(*std::max_element(volumes[1].speed.begin(), volumes[1].speed.end()), 0.05f) << "it flies";
}

// What comes after a run begins with its first frames and goes on as they come.
TEST_F(Cli, PicturesFollowTheRun) {
  make();
  const std::string cli_there = std::string("cd ") + folder.string() + " && " + EASY_POUR_CLI + " ";
  const Result both = shell("(" + cli_there + "run a.pour > run.txt 2>&1 &) ; cd " + folder.string() +
                            " && while [ ! -d a.runs/001/frames ]; do sleep 0.02; done; " + cli_there +
                            "picture a.runs/001 --size 32x18 --out pics --follow --progress json");
  ASSERT_EQ(both.code, 0) << both.out;
  EXPECT_EQ(std::distance(fs::directory_iterator(folder / "pics"), fs::directory_iterator{}), 16);
  EXPECT_THAT(both.out, HasSubstr("\"done\":16,\"of\":16"));
  EXPECT_THAT(both.out, HasSubstr("\"end\":\"done\""));
  EXPECT_THAT(both.out, testing::Not(HasSubstr("\"of\":1,"))) << "it is told of the whole";

  // A run that ended too soon is told, and what there was is made.
  ASSERT_EQ(cli("run a.pour --frames 1-4").code, 0);
  const Result soon = cli("picture a.runs/001 --frames 15-16 --size 32x18 --out more --follow");
  EXPECT_EQ(soon.code, 0) << soon.out;
  shell("cd " + folder.string() + " && sed -i '$d' a.runs/001/frames.jsonl");
  const Result short_of = cli("picture a.runs/001 --size 32x18 --out short --follow");
  EXPECT_EQ(short_of.code, 1) << short_of.out;
  EXPECT_THAT(short_of.out, HasSubstr("ended at frame 15, before frame 16"));
  EXPECT_EQ(std::distance(fs::directory_iterator(folder / "short"), fs::directory_iterator{}), 15);
  ASSERT_EQ(cli("run a.runs/001 --resume").code, 0);

  // With a look that comes in, another one than the shot's.
  ASSERT_EQ(cli("picture a.runs/001 --frames 16 --size 32x18 --out own").code, 0);
  ASSERT_EQ(cli("picture a.runs/001 --frames 16 --size 32x18 --out same --look - < a.pour").code, 0);
  ASSERT_EQ(cli("set a.pour look.exposure=2").code, 0);
  ASSERT_EQ(cli("picture a.runs/001 --frames 16 --size 32x18 --out other --look - < a.pour").code, 0);
  const auto picture = [&](const char* of) {
    auto in = OIIO::ImageInput::open((folder / of / "a.000016.png").string());
    std::vector<uint8_t> pixels(32 * 18 * 3);
    EXPECT_TRUE(in && in->read_image(0, 0, 0, 3, OIIO::TypeDesc::UINT8, pixels.data()));
    return pixels;
  };
  EXPECT_EQ(picture("own"), picture("same"));
  EXPECT_NE(picture("own"), picture("other"));
  EXPECT_EQ(cli("picture a.runs/001 --out no --look - < a.runs/001/run.json").code, 1);
}

TEST(JobLine, TellsWhatItWasTold) {
  JobLine line{.run = "a b/“c”.runs/001", .done = 3, .of = 16, .seconds_left = 1.5, .notice = "Two\nlines"};
  line.record = FrameRecord{.frame = 3, .time = 0.125, .id = "x"};
  line.end = JobLine::End::stopped, line.seconds = 7;
  const std::string text = to_text(line);
  EXPECT_EQ(std::count(text.begin(), text.end(), '\n'), 1);
  const JobLine back = job_line(text);
  EXPECT_EQ(to_text(back), text);
  EXPECT_EQ(back.notice, "Two\nlines");
  ASSERT_TRUE(back.record);
  EXPECT_EQ(back.record->frame, 3);
  EXPECT_THROW((void)job_line("frame 3 of 16"), Fault);
  EXPECT_THROW((void)job_line("{\"done\": \"many\"}"), Fault);
  EXPECT_THROW((void)job_line("[1]"), Fault);
}

// A shot that was copied with its runs is seen in its own look, not in that of the shot which they were made
// from.
TEST_F(Cli, PicturesOfAShotHaveItsLook) {
  make("a.pour", "film.frames=1");
  ASSERT_EQ(cli("run a.pour").code, 0);
  shell("cd " + folder.string() + " && cp a.pour b.pour && cp -r a.runs b.runs");
  ASSERT_EQ(cli("set b.pour look.exposure=3").code, 0);
  for (const char* name : {"a", "b"})
    ASSERT_EQ(
        cli(std::string("deliver ") + name + ".pour --images " + name + " --size 64x36 --samples 0").code, 0);
  const auto picture = [&](const char* name) {
    return read_whole(fs::directory_iterator(folder / name)->path());
  };
  EXPECT_NE(picture("a"), picture("b"));
  ASSERT_EQ(cli("deliver b.runs/001 --images c --size 64x36 --samples 0").code, 0);
  EXPECT_EQ(picture("a"), picture("c")) << "the run alone is seen in the look of what it was made from";
}

TEST_F(Cli, AWordForTwoThingsIsRefused) {
  make();
  const Result both = cli("add a.pour disc");
  EXPECT_EQ(both.code, 2);
  EXPECT_THAT(both.out, AllOf(HasSubstr("a piece and a light"), HasSubstr("add FILE piece disc")));
  const Result before = cli("show a.pour");
  EXPECT_THAT(cli("add a.pour piece disc radius='2 cm'").out, HasSubstr("Added pieces.disc"));
  EXPECT_THAT(cli("add a.pour light disc --name Round").out, HasSubstr("Added lights.round"));
  EXPECT_THAT(cli("add a.pour ball").out, HasSubstr("Added pieces.ball")) << "which is clear";
  EXPECT_EQ(cli("add a.pour light ball").code, 2);
  const std::string now = cli("show a.pour").out;
  EXPECT_THAT(now, HasSubstr("pieces.disc.radius = 2 cm"));
  EXPECT_THAT(now, testing::Not(HasSubstr("lights.disc.")));
  EXPECT_THAT(before.out, testing::Not(HasSubstr("pieces.disc")));
}

TEST_F(Cli, AValueAtItsEdgeOpensAgain) {
  make();
  for (const char* ok : {"look.forward='95 %'", "pieces.word.bounce='95 %'", "look.forward@='-90 %'"})
    EXPECT_EQ(cli("set a.pour " + std::string(ok)).code, 0) << ok;
  EXPECT_EQ(cli("show a.pour").code, 0);
  for (const char* no :
       {"film.capture=0.00999", "pieces.word.bounce='95.001 %'", "pieces.word.letter_height='0.999 mm'"})
    EXPECT_EQ(cli("set a.pour " + std::string(no)).code, 1) << no;
  // In a file it opens clamped, and a run refuses it until somebody accepts that.
  std::string text = read_whole(folder / "a.pour");
  text.replace(text.find("\"bounce\": 0.95"), 14, "\"bounce\": 1.25");
  write_whole(folder / "a.pour", text);
  const Result checked = cli("check a.pour");
  EXPECT_EQ(checked.code, 1);
  EXPECT_THAT(checked.out, AllOf(HasSubstr("pieces.word.bounce"), HasSubstr("125 %"), HasSubstr("95 %")));
  EXPECT_THAT(cli("run a.pour --frames 1-2").out, AllOf(HasSubstr("125 %"), HasSubstr("--mend")));
  EXPECT_EQ(cli("set a.pour look.halo=0").code, 0) << "other settings can be changed";
  EXPECT_EQ(cli("run a.pour --frames 1-2").code, 1) << "which settles nothing";
  EXPECT_EQ(cli("check a.pour --mend").code, 0);
  EXPECT_EQ(cli("run a.pour --frames 1-2").code, 0);
}

TEST_F(Cli, AReaderOfModelsThatTalksALotIsHeardOut) {
  // Each of its pipes is fuller than the system holds before the other one is read.
  fs::copy_file(EASY_POUR_CLI, folder / "easy-pour-cli");
  write_whole(folder / "easy-pour-reader",
              "#!/bin/bash\nhead -c 300000 /dev/zero | tr '\\0' 'w' >&2\nhead -c 300000 /dev/zero\nexit 1\n");
  fs::permissions(folder / "easy-pour-reader", fs::perms::owner_all);
  write_whole(folder / "a.obj", "v 0 0 0\n");
  const Result r = shell("cd " + folder.string() + " && timeout 20 ./easy-pour-cli inspect a.obj");
  EXPECT_EQ(r.code, 1) << "not ended for taking too long";
  EXPECT_THAT(r.out, HasSubstr("could not be read: www"));
}

TEST_F(Cli, WhatWouldTakeForEverIsRefusedSoon) {
  make();
  std::string circles = "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 1000 1000\">",
              lines = circles;
  lines += "<path fill=\"none\" stroke=\"#000\" stroke-width=\"2\" d=\"";
  unsigned n = 1;
  const auto any = [&n] { return std::to_string((n = n * 1103515245u + 12345u) / 65536u % 1000u); };
  for (int i = 0; i < 20000; ++i) circles += "<circle cx=\"" + any() + "\" cy=\"" + any() + "\" r=\"40\"/>";
  for (int i = 0; i < 1500; ++i) lines += "M" + any() + " " + any() + "L" + any() + " " + any();
  write_whole(folder / "circles.svg", circles + "</svg>");
  write_whole(folder / "lines.svg", lines + "\"/></svg>");
  std::string groups, equal = "v 0 0 0\nv 1 0 0\nv 0 1 0\n";
  for (int i = 0; i < 20000; ++i)
    groups += "g p" + std::to_string(i) + "\nv " + std::to_string(i % 150) + " " + std::to_string(i / 150) +
              " 0\nv " + std::to_string(i % 150) + ".5 " + std::to_string(i / 150) + " 0\nv " +
              std::to_string(i % 150) + " " + std::to_string(i / 150) + ".5 0\nf -3 -2 -1\n";
  for (int i = 0; i < 50000; ++i) equal += "f 1 2 3\n";
  write_whole(folder / "groups.obj", groups), write_whole(folder / "equal.obj", equal);
  for (const char* file : {"circles.svg", "lines.svg", "groups.obj", "equal.obj"}) {
    const Result r = shell("cd " + folder.string() + " && timeout 20 " EASY_POUR_CLI " inspect " + file);
    EXPECT_TRUE(r.code == 0 || r.code == 1) << file << " took over 20 s";
    if (std::string(file).ends_with("svg")) {
      EXPECT_EQ(r.code, 1) << file;
      EXPECT_THAT(r.out, HasSubstr("where it was drawn")) << file;
    }
  }
  // Settings that no machine can compute are told before anything is made.
  const Result deep = shell(
      "cd " + folder.string() +
      " && " EASY_POUR_CLI " set a.pour pieces.word.depth=100m && timeout 40 " EASY_POUR_CLI " check a.pour");
  EXPECT_LE(deep.code, 1) << "took over 40 s";
  EXPECT_EQ(cli("set a.pour pieces.word.depth=4cm film.capture=0.01 film.frames=100").code, 0);
  EXPECT_THAT(cli("check a.pour").out, HasSubstr("of shot time"));
}

TEST_F(Cli, WhatHasNoEffectIsSaid) {
  make("tea.pour", "");
  ASSERT_EQ(cli("new a-mark-of-paint --out p.pour").code, 0);
  EXPECT_EQ(cli("set p.pour fluids.paint.density=1200").out, "") << "paint has figures of its own";
  ASSERT_EQ(cli("new tea-into-a-bowl --out t.pour").code, 0);
  EXPECT_THAT(cli("set t.pour fluids.tea.viscosity@20=3").out, HasSubstr("no effect"));
  // A setting that goes with the kind of its piece in the same command refuses nothing.
  ASSERT_EQ(cli("add t.pour ball").code, 0);
  EXPECT_EQ(cli("set t.pour pieces.ball.radius=2cm pieces.ball.kind=box").code, 0);
  EXPECT_THAT(cli("show t.pour pieces.ball.kind").out, HasSubstr("box"));
}
