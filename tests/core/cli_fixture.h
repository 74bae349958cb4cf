// easy-pour-cli in a folder of its own, as a script or a render farm calls it.
#pragma once
#include <gtest/gtest.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cstdio>
#include <string>

#include "base/file.h"

namespace pour {

struct Result {
  int code;
  std::string out;  // both streams
};

inline Result shell(const std::string& command) {
  FILE* pipe = popen((command + " 2>&1").c_str(), "r");
  Result r{-1, ""};
  char b[4096];
  for (size_t n; (n = fread(b, 1, sizeof b, pipe)) > 0;) r.out.append(b, n);
  const int status = pclose(pipe);
  r.code = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
  return r;
}

class Cli : public testing::Test {
 protected:
  fs::path folder = fs::path(testing::TempDir()) / ("cli" + std::to_string(getpid()));
  void SetUp() override {
    fs::remove_all(folder);
    fs::create_directories(folder);
  }
  void TearDown() override {
    shell("chmod -R u+w " + folder.string());
    fs::remove_all(folder);
  }
  Result cli(const std::string& arguments) {
    return shell("cd " + folder.string() + " && " EASY_POUR_CLI " " + arguments);
  }
  /// A small word that runs in seconds.
  void make(const std::string& name = "a.pour", const std::string& more = "") {
    const Result r = cli("new fill-a-word --text OI --out " + name +
                         " --set run.detail=custom --set run.cell_size=4mm --set film.frames=16 " + more);
    ASSERT_EQ(r.code, 0) << r.out;
  }
  std::string bytes(const std::string& run, int frame) {
    char name[64];
    std::snprintf(name, sizeof name, "frames/%06d.vdb", frame);
    return read_whole(folder / run / name);
  }
};

}  // namespace pour
