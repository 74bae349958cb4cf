// Files that are whole or not there, sums, and loops over all cores.
#include "base/file.h"

#include <gmock/gmock.h>
#include <gtest/gtest.h>

#include <fstream>
#include <set>

#include "base/error.h"
#include "base/parallel.h"
#include "base/text.h"

using namespace pour;
using testing::HasSubstr;

namespace {

class Files : public testing::Test {
 protected:
  fs::path folder = fs::path(testing::TempDir()) / "files";
  void SetUp() override {
    fs::remove_all(folder);
    fs::create_directories(folder);
  }
  void TearDown() override { fs::remove_all(folder); }
  std::set<std::string> names() {
    std::set<std::string> out;
    for (const auto& e : fs::directory_iterator(folder)) out.insert(e.path().filename().string());
    return out;
  }
};

}  // namespace

TEST_F(Files, WhatIsWrittenIsReadBack) {
  const std::string bytes("one\0two\n\xff", 9);
  write_whole(folder / "a", bytes);
  EXPECT_EQ(read_whole(folder / "a"), bytes);
  write_whole(folder / "a", "shorter");
  EXPECT_EQ(read_whole(folder / "a"), "shorter");
  write_whole(folder / "empty", "");
  EXPECT_EQ(read_whole(folder / "empty"), "");
  EXPECT_EQ(names(), (std::set<std::string>{"a", "empty"})) << "no temporary is left";
}

TEST_F(Files, AWriterThatFailsLeavesTheOldFile) {
  write_whole(folder / "a", "old");
  EXPECT_THROW(write_whole(folder / "a",
                           [&](const fs::path& temporary) {
                             std::ofstream(temporary) << "half of the n";
                             throw machine_fault("a", "the disk is full.", "Make room.");
                           }),
               Fault);
  EXPECT_EQ(read_whole(folder / "a"), "old");
  EXPECT_EQ(names(), std::set<std::string>{"a"});
}

TEST_F(Files, PlacesThatCannotBeWrittenAreNamed) {
  try {
    write_whole(folder / "no" / "such" / "a", "x");
    FAIL();
  } catch (const Fault& f) {
    EXPECT_EQ(f.blame, Blame::machine);
    EXPECT_THAT(f.where, HasSubstr("such"));
    EXPECT_FALSE(f.problem.empty());
  }
  fs::create_directory(folder / "taken");
  EXPECT_THROW(write_whole(folder / "taken", "x"), Fault) << "a folder has that name";
}

TEST_F(Files, MissingFilesAreTheShotsFault) {
  try {
    (void)read_whole(folder / "missing");
    FAIL();
  } catch (const Fault& f) {
    EXPECT_EQ(f.blame, Blame::shot);
    EXPECT_THAT(f.what(), HasSubstr("missing"));
    EXPECT_FALSE(f.mend.empty());
  }
}

TEST_F(Files, ChecksumsTellOneBitAndOneByteFromAnother) {
  std::string text(4099, 'a');
  const uint64_t before = checksum(text);
  EXPECT_EQ(before, checksum(std::string(4099, 'a')));
  std::set<uint64_t> seen{before};
  for (const size_t at : {0u, 7u, 8u, 2048u, 4095u, 4098u})
    for (const int bit : {0, 5}) {
      std::string changed = text;
      changed[at] = char(changed[at] ^ (1 << bit));
      EXPECT_TRUE(seen.insert(checksum(changed)).second) << at << " bit " << bit;
    }
  EXPECT_TRUE(seen.insert(checksum(text.substr(1))).second);
  EXPECT_TRUE(seen.insert(checksum(text + 'a')).second);
}

TEST_F(Files, WhatIsAddedIsAddedWholeOrNotAtAll) {
  append_whole(folder / "log", "one\n");
  append_whole(folder / "log", "two\n");
  EXPECT_EQ(read_whole(folder / "log"), "one\ntwo\n");
  EXPECT_THROW(append_whole(folder / "no" / "log", "x"), Fault);
}

TEST_F(Files, PlacesHaveOneTrueName) {
  fs::create_directories(folder / "a/b");
  fs::create_directory_symlink(folder / "a", folder / "link");
  const fs::path place = fs::canonical(folder) / "a/b";
  EXPECT_EQ(true_path(folder / "a" / "b"), place);
  EXPECT_EQ(true_path(folder / "a/b/"), place) << "no slash at its end";
  EXPECT_EQ(true_path(folder / "link/../a/./b"), place);
  EXPECT_EQ(true_path(folder / "a/b/new.pour"), place / "new.pour") << "what is not there yet has one too";
  fs::create_symlink("circle", folder / "circle");
  EXPECT_NO_THROW((void)true_path(folder / "circle"));
  EXPECT_FALSE(is_there(folder / "circle"));
  EXPECT_FALSE(is_there(folder / std::string(300, 'n')));
  EXPECT_THROW(write_whole(folder / "circle", "x"), Fault);
  EXPECT_THROW((void)read_whole("/dev/zero"), Fault) << "it would never end";
  write_whole(folder / "large", std::string(1000, 'x'));
  EXPECT_THROW((void)read_whole(folder / "large", 999), Fault);
}

TEST(Faults, WhateverIsThrownBecomesOne) {
  const auto told = [](const auto& thrown) {
    try {
      throw thrown;
    } catch (...) {
      return fault_in_flight("Here");
    }
  };
  EXPECT_EQ(told(shot_fault("a", "is wrong.", "Mend it.")).where, "a") << "one of ours is passed on";
  EXPECT_EQ(told(std::bad_alloc()).blame, Blame::machine);
  EXPECT_THAT(told(std::bad_alloc()).problem, HasSubstr("memory"));
  EXPECT_THAT(told(std::out_of_range("index 7")).what(),
              testing::AllOf(HasSubstr("Here"), HasSubstr("index 7")));
  EXPECT_FALSE(told(7).mend.empty());
  const Fault endless = shot_fault("a", std::string(100000, 'x') + "é", "Mend it.");
  EXPECT_LT(std::string(endless.what()).size(), 1000u);
}

TEST(Text, NumbersAreWholeOrNone) {
  EXPECT_EQ(whole_number("42", 1, 100), 42);
  EXPECT_EQ(whole_number("-3", -5, 5), -3);
  for (const char* none :
       {"", " 1", "1 ", "+1", "1.0", "0x10", "1e3", "101", "0", "99999999999999999999", "4294967338"})
    EXPECT_FALSE(whole_number(none, 1, 100)) << none;
}

// Well-formed and ill-formed sequences: Unicode 15, table 3-7; RFC 3629.
TEST(Text, OnlyUtf8IsUtf8) {
  for (const char* good : {"", "plain", "é", "水", "\xf0\x9f\x91\xa9", "\xef\xbf\xbf", "\xf4\x8f\xbf\xbf"})
    EXPECT_TRUE(is_utf8(good)) << good;
  for (const char* bad : {"\xc0\x80", "\xc1\xbf", "\xe0\x80\x80", "\xed\xa0\x80", "\xf4\x90\x80\x80",
                          "\xf8\x88\x80\x80\x80", "\x80", "\xe6\xb0", "a\xff"})
    EXPECT_FALSE(is_utf8(bad));
  EXPECT_EQ(printable("a\x1b[31m水\n\x7f\xc2\x9b\xff"), "a\\x1b[31m水\\x0a\\x7f\\x9b\\xff");
}

TEST_F(Files, TheMachineIsMeasured) {
  EXPECT_GT(free_bytes(folder), 1e6);
  EXPECT_NEAR(free_bytes(folder / "not" / "yet"), free_bytes(folder), 1e9) << "of the nearest parent";
  EXPECT_GT(free_bytes(""), 0) << "where we are";
  EXPECT_GT(peak_memory(), 1e6);
  EXPECT_GT(available_memory(), 1e6);
  EXPECT_TRUE(fs::is_directory(share_folder() / "fonts"));
}

TEST(Parallel, EveryIndexIsVisitedOnce) {
  std::vector<int> seen(10007, 0);
  parallel_for(seen.size(), [&](size_t i) { ++seen[i]; });
  EXPECT_THAT(seen, testing::Each(1));
  parallel_for(0, [&](size_t) { FAIL(); });
}

TEST(Parallel, SumsHaveTheSameBitsAtAnyThreadCount) {
  // Terms of very different size: any other order of adding gives other bits.
  const auto term = [](size_t i) { return (i % 3 ? 1e-9 : 1e9) * std::sin(double(i)); };
  double sums[3];
  for (int t = 0; t < 3; ++t) {
    const ThreadLimit limit(t + 1);
    sums[t] = ordered_sum<double>(100000, term);
  }
  EXPECT_EQ(sums[0], sums[1]);
  EXPECT_EQ(sums[0], sums[2]);
  double plain = 0;
  for (size_t i = 0; i < 100000; ++i) plain += term(i);
  EXPECT_NEAR(sums[0], plain, 1e-6 * std::abs(plain));
}
