// easy-pour-cli: everything that Easy Pour does, without a window.
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <exception>
#include <optional>

#include "base/parallel.h"
#include "base/text.h"
#include "door.h"

namespace {

using namespace pour;

/// The first word that is no option must be a command.
void check_command(const CLI::App& app, int argc, char** argv) {
  for (int i = 1; i < argc; ++i) {
    const std::string word = argv[i];
    if (word == "--threads") {
      ++i;
    } else if (!word.starts_with("-")) {
      std::vector<std::string> known;
      for (const CLI::App* c : app.get_subcommands([](const CLI::App*) { return true; })) {
        if (c->get_name() == word) return;
        known.push_back(c->get_name());
      }
      const std::string near = nearest(word, known);
      throw usage_fault("“" + word + "”", "is not a command.",
                        did_you_mean(near, "“easy-pour-cli --help” lists them all."));
    }
  }
}

/// An empty value is a slip of a script: it never means “nothing”. Only a word may be empty, and is told so.
void refuse_empty(const CLI::App& command) {
  for (const CLI::Option* o : command.get_options())
    for (const std::string& value : o->results())
      if (value.empty() && o->get_name() != "--text")
        throw usage_fault(o->get_name(), "is empty.", "Give it a value, or leave it out.");
}

int run_command(int argc, char** argv) {
  CLI::App app{"Easy Pour on the command line: from a word to finished frames."};
  app.require_subcommand(1);
  int threads = 0, exit_code = 0;
  std::optional<ThreadLimit> limit;
  const char* about_threads = "Number of threads. The result is the same with any number.";
  app.add_option("--threads", threads, about_threads)->check(CLI::Range(1, 1024));
  add_shot_commands(app, exit_code);
  add_item_commands(app);
  add_run_commands(app);
  add_picture_commands(app);
  for (CLI::App* command : app.get_subcommands({})) {
    if (command->get_name() == "run")
      command->add_option("--threads", threads, about_threads)->check(CLI::Range(1, 1024));
    command->parse_complete_callback([&, command] {
      refuse_empty(*command);
      if (threads) limit.emplace(threads);
    });
  }
  check_command(app, argc, argv);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) {
    if (e.get_exit_code() == 0) {
      const int code = app.exit(e);  // help
      finish_output();
      return code;
    }
    throw usage_fault("Command line", printable(e.what()) + ".", "“easy-pour-cli COMMAND --help” says how.");
  }
  finish_output();
  return exit_code;
}

}  // namespace

namespace {

/// An exception in a library's thread ends the program with a message.
[[noreturn]] void end_with_words() {
  std::string words = "easy-pour-cli: ended, and what was stored before is kept.";
  if (std::current_exception()) words = fault_in_flight("easy-pour-cli").what();
  std::fprintf(stderr, "%s\n", printable(words).c_str());
  std::_Exit(int(Blame::machine));
}

}  // namespace

int main(int argc, char** argv) {
  std::set_terminate(end_with_words);
  std::signal(SIGXFSZ, SIG_IGN);  // a file that grows too large is told like a full disk
  try {
    return run_command(argc, argv);
  } catch (...) {
    const Fault f = fault_in_flight("easy-pour-cli");
    std::fprintf(stderr, "%s\n", printable(f.what()).c_str());
    return int(f.blame);
  }
}
