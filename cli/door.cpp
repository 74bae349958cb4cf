#include "door.h"

#include <cerrno>
#include <cstdio>

#include "base/text.h"
#include "shot/out_of_range.h"
#include "shot/shot_file.h"

using namespace pour;

namespace {

int output_error = 0;

void keep_error() {
  if (!output_error && errno != EPIPE) output_error = errno ? errno : EIO;
  std::clearerr(stdout);
}

}  // namespace

void say_text(const std::string& text) {
  errno = 0;
  if (std::fwrite(text.data(), 1, text.size(), stdout) != text.size() || std::fflush(stdout)) keep_error();
}

void say(const std::string& line) { say_text(printable(line) + "\n"); }

void finish_output() {
  errno = 0;
  if (std::fflush(stdout)) keep_error();
  if (output_error) throw file_fault("Standard output", "could not be written", output_error);
}

bool is_folder(const std::string& name) {
  std::error_code ignored;
  return fs::is_directory(name, ignored);
}

fs::path shot_file(const std::string& name) {
  if (is_folder(name)) throw usage_fault(name, "is a folder.", "Name a shot, NAME.pour.");
  return true_path(name);
}

Shot change_shot(const std::string& name, const std::function<void(Shot&)>& change) {
  const fs::path file = shot_file(name);
  Shot shot = load_shot(file);
  change(shot);
  keep_within_limits(shot);
  save_shot(shot, file);
  return shot;
}

const Piece& piece_of(const Shot& shot, const std::string& id) {
  if (const Piece* p = shot.piece(id)) return *p;
  std::vector<std::string> known;
  for (const Piece& p : shot.pieces) known.push_back(p.id);
  const std::string near = nearest(id, known);
  throw shot_fault(id, "is no piece of this shot.", did_you_mean(near, "Name one of its pieces."));
}

Run open_run(const std::string& name) {
  if (is_folder(name)) return load_run(name);
  const fs::path file = true_path(name);
  if (!is_there(file)) (void)read_whole(file);  // says why
  RunList all = list_runs(file);
  if (!all.bad.empty() && (all.runs.empty() || all.bad.front().number > all.runs.front().number())) {
    const std::string older = all.runs.empty() ? ""
                                               : filled(" Or name an older run: {folder}",
                                                        {{"folder", all.runs.front().folder.string()}});
    throw shot_fault("The newest run",
                     filled("can't be read. {problem}", {{"problem", all.bad.front().problem}}), older);
  }
  if (all.runs.empty())
    throw shot_fault(name, "has no run yet.",
                     filled("Run it first: easy-pour-cli run {name}", {{"name", name}}));
  return std::move(all.runs.front());
}

FrameRange parse_range(const std::string& text, const FrameRange& all, const std::string& of) {
  if (text.empty()) return all;
  const size_t dash = text.find('-');
  const auto number = [](const std::string& t) { return whole_number(t, 1, 1000000000); };
  const auto first = number(text.substr(0, dash)),
             last = dash == std::string::npos ? first : number(text.substr(dash + 1));
  if (!first || !last || *last < *first)
    throw usage_fault("--frames " + text, "is not a range of frames.", "Write it as 1-120.");
  if (*first < all.first || *last > all.last)
    throw usage_fault(
        "--frames " + text,
        filled("reaches beyond {of}, which has frames {first}-{last}.",
               {{"of", of}, {"first", std::to_string(all.first)}, {"last", std::to_string(all.last)}}),
        "Name some of these.");
  return {int(*first), int(*last)};
}

void parse_size(const std::string& text, int& width, int& height) {
  if (text.empty()) return;
  const size_t x = text.find('x');
  const auto number = [](const std::string& t) { return whole_number(t, 16, 16384); };
  const auto w = number(text.substr(0, x)),
             h = x == std::string::npos ? std::nullopt : number(text.substr(x + 1));
  if (!w || !h)
    throw usage_fault("--size " + text, "is not a size.",
                      "Write it as 1920x1080; from 16 to 16384 pixels each way.");
  width = int(*w), height = int(*h);
}

Shot look_of(const Run& run, const std::string& run_name, const std::string& named) {
  if (named == "-") {
    std::string text;
    char part[65536];
    for (size_t n; (n = std::fread(part, 1, sizeof part, stdin)) > 0;) text.append(part, n);
    return shot_from_json(text, "Standard input");
  }
  if (!named.empty()) return load_shot(shot_file(named));
  if (!is_folder(run_name)) return load_shot(true_path(run_name));
  fs::path shot = run.folder.parent_path();
  shot.replace_extension(".pour");
  if (!run.shot_file.empty()) shot.replace_filename(run.shot_file);
  return is_there(shot) ? load_shot(shot) : run.shot;
}
