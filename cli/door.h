// Input from the command line and output to the terminal.
#pragma once
#include <CLI/CLI.hpp>
#include <functional>
#include <string>

#include "base/error.h"
#include "base/file.h"
#include "run/run_folder.h"
#include "shot/shot.h"

/// Writes a line with control codes escaped. Write errors are kept for output_fault().
void say(const std::string& line);
/// Writes our own text without escaping.
void say_text(const std::string& text);
/// Throws Fault (Blame::machine) if output was lost. A closed pipe is not a fault.
void finish_output();

/// The canonical path of a shot. Throws Fault if there is none.
pour::fs::path shot_file(const std::string& name);
/// Changes and saves a shot, and returns it. The file is unchanged if `change` throws.
pour::Shot change_shot(const std::string& name, const std::function<void(pour::Shot&)>& change);
/// A piece by its id. Throws Fault that names the nearest id.
const pour::Piece& piece_of(const pour::Shot&, const std::string& id);
/// A run by its folder, or the newest of a shot. Throws Fault if that run is unreadable; never takes an older
/// one.
pour::Run open_run(const std::string& name);
bool is_folder(const std::string& name);

/// Reads “3” or “1-120” within `all`; empty text means `all`. `of` names their owner in messages.
pour::FrameRange parse_range(const std::string& text, const pour::FrameRange& all, const std::string& of);
/// Reads “1920x1080”; empty text changes nothing.
void parse_size(const std::string& text, int& width, int& height);
/// The shot that gives pictures their look and camera: the named one, “-” for standard input, otherwise the
/// shot used to name the run, or the run's shot file if it still exists.
pour::Shot look_of(const pour::Run&, const std::string& run_name, const std::string& shot);

/// Each adds its commands. Their callbacks run once the whole line is parsed.
void add_shot_commands(CLI::App&, int& exit_code);
void add_item_commands(CLI::App&);
void add_run_commands(CLI::App&);
void add_picture_commands(CLI::App&);
