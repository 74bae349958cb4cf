// What comes in from a command line and what goes out to a terminal.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>
#include <string>

#include "base/error.h"
#include "base/file.h"
#include "run/run_folder.h"
#include "shot/shot.h"

/// Writes a line, with control codes written out. What can't be written is kept for output_fault().
void say(const std::string& line);
/// The same without a look at what is in it: tables and texts of our own.
void say_text(const std::string& text);
/// Throws Fault (Blame::machine) where something of what was said did not get out. A reader that went away
/// is no fault.
void finish_output();

/// A shot by its one true name. Throws Fault where there is none.
pour::fs::path shot_file(const std::string& name);
/// Changes a shot where it lies, and returns it as it was saved; it stays as it is where that throws.
pour::Shot change_shot(const std::string& name, const std::function<void(pour::Shot&)>& change);
/// A piece by its id. Throws Fault with the nearest one.
const pour::Piece& piece_of(const pour::Shot&, const std::string& id);
/// A run: its folder, or the newest one of a shot. Throws Fault where that can't be read, rather than to take
/// an older one.
pour::Run open_run(const std::string& name);
bool is_folder(const std::string& name);

/// “3” or “1-120”, within `all`; `all` where the text is empty. `of` says what has these frames.
pour::FrameRange parse_range(const std::string& text, const pour::FrameRange& all, const std::string& of);
/// “1920x1080”; left as they are where the text is empty.
void parse_size(const std::string& text, int& width, int& height);
/// What pictures of a run take their look and camera from: the named shot, “-” for one that comes in, or
/// where none is named the shot by which the run was named, or the run's own as it is now, if it still stands
/// beside the run.
pour::Shot look_of(const pour::Run&, const std::string& run_name, const std::string& shot);

/// Each adds its commands; what one does is called once all of the line was understood.
void add_shot_commands(CLI::App&, int& exit_code);
void add_item_commands(CLI::App&);
void add_run_commands(CLI::App&);
void add_picture_commands(CLI::App&);
