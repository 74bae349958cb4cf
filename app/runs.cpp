#include "runs.h"
#include "base/version.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QStandardPaths>
#include <QtConcurrent>

#include "background.h"
#include "base/error.h"
#include "base/file.h"

using namespace pour;

namespace {

constexpr int longest_wait = 60000;  // ms, for a run to be stored when the window goes
constexpr size_t most_watched = 60;  // runs

QString name_of(const Run& r) { return QString::fromStdString(r.name()); }

}  // namespace

Runs::Runs(Document& document, QObject* parent) : QObject(parent), document_(document), job_(longest_wait) {
  connect(&job_, &Job::told, this, &Runs::hear);
  connect(&job_, &Job::ended, this, &Runs::finished);
  connect(&job_, &Job::failed_alone, this, &Runs::failed);
  connect(&document_, &Document::replaced, this, [this] {
    let_go();
    chosen_.clear(), compared_.clear();
    reload();
  });
  disk_changed_.setSingleShot(true);
  disk_changed_.setInterval(300);
  connect(&disk_changed_, &QTimer::timeout, this, &Runs::look_again);
  poll_.setSingleShot(true);
  poll_.setInterval(5000);
  connect(&poll_, &QTimer::timeout, this, &Runs::look_again);
  connect(&disk_, &QFileSystemWatcher::directoryChanged, this, [this](const QString& folder) {
    // The run of this window reports by itself.
    if (!is_ours(QDir(folder).dirName()) && !is_ours(QFileInfo(folder).dir().dirName()))
      disk_changed_.start();
  });
  connect(&looking_, &QFutureWatcher<RunList>::finished, this, [this] {
    if (looked_at_ != document_.file()) return;
    RunList found = looking_.result();
    for (Run& r : found.runs)  // nobody knows the run of this window better
      if (const Run* known = is_ours(name_of(r)) ? find(name_of(r)) : nullptr) r = *known;
    list_ = std::move(found);
    settle();
  });
}

Runs::~Runs() { looking_.waitForFinished(); }

const Run* Runs::find(const QString& name) const {
  for (const Run& r : list_.runs)
    if (name_of(r) == name) return &r;
  return nullptr;
}

const Run* Runs::chosen() const { return find(chosen_); }
const Run* Runs::compared() const { return find(compared_); }

void Runs::choose(const QString& name) {
  // The compared and the chosen run change places.
  if (name == compared_) compared_ = chosen_;
  chosen_ = name;
  Q_EMIT changed();
}

void Runs::compare(const QString& name) {
  compared_ = name == chosen_ ? QString() : name;
  Q_EMIT changed();
}

bool Runs::remove(const QString& name) {
  const QDir all(QString::fromStdString(runs_folder(document_.file().toStdString()).string()));
  const QString folder = all.filePath(name);
  if (name.isEmpty() || !all.exists(name) || under_way(name) || writer_of(folder.toStdString())) return false;
  // Qt moves things to where the program was started from if there is no place for a trash.
  const QString data = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation);
  if (!QDir().mkpath(data) || !QFileInfo(data).isWritable() || !QFile::moveToTrash(folder, &in_trash_))
    return false;
  removed_ = folder;
  if (name == compared_) compared_.clear();
  reload();
  return true;
}

Pace Runs::pace() const { return pace_of(list_); }

bool Runs::can_resume() const {
  const Run* r = chosen();
  return !job_.busy() && r && !under_way(chosen_) && r->program == EASY_POUR_VERSION && is_unfinished(*r);
}

bool Runs::can_stop() const { return job_.busy() ? !job_.stopping() : by_another(chosen_); }

void Runs::reload() {
  list_ = {};
  if (!document_.file().isEmpty()) try {
      list_ = list_runs(document_.file().toStdString());
    } catch (...) {
      Q_EMIT failed(QString::fromUtf8(fault_in_flight(document_.file().toStdString()).what()));
    }
  settle();
}

void Runs::settle() {
  // A newer run that can't be read is not passed over in silence.
  const int newest = list_.runs.empty() ? 0 : list_.runs.front().number();
  const int bad = list_.bad.empty() ? 0 : list_.bad.front().number;
  if (bad > newest && bad != told_of_)
    Q_EMIT noticed(
        tr("Run %1 can't be read. %2").arg(bad).arg(QString::fromStdString(list_.bad.front().problem)));
  told_of_ = bad > newest ? bad : 0;
  writers_.clear();
  for (const Run& r : list_.runs)
    if (r.state == RunState::running && !is_ours(name_of(r)))
      if (const auto w = writer_of(r.folder)) writers_[name_of(r)] = *w;
  if (!chosen() && !list_.runs.empty()) chosen_ = name_of(list_.runs.front());
  if (!writers_.empty()) poll_.start();
  watch();
  Q_EMIT changed();
}

void Runs::watch() {
  QStringList wanted;
  if (!document_.file().isEmpty()) {
    const fs::path all = runs_folder(document_.file().toStdString());
    wanted << QFileInfo(document_.file()).absolutePath() << QString::fromStdString(all.string());
    for (size_t i = 0; i < std::min(most_watched, list_.runs.size()); ++i)
      wanted << QString::fromStdString(list_.runs[i].folder.string())
             << QString::fromStdString((list_.runs[i].folder / "frames").string());
  }
  wanted.removeIf([](const QString& f) { return !QFileInfo(f).isDir(); });
  const QStringList now = disk_.directories();
  QStringList gone, fresh;
  for (const QString& f : now)
    if (!wanted.contains(f)) gone << f;
  for (const QString& f : wanted)
    if (!now.contains(f)) fresh << f;
  if (!gone.isEmpty()) disk_.removePaths(gone);
  if (!fresh.isEmpty()) disk_.addPaths(fresh);
}

void Runs::look_again() {
  if (document_.file().isEmpty()) return;
  if (looking_.isRunning()) return disk_changed_.start();
  looked_at_ = document_.file();
  looking_.setFuture(QtConcurrent::run(&beside(), [file = looked_at_.toStdString()]() -> RunList {
    step_back();
    try {
      return list_runs(file);
    } catch (...) {
      return {{}, {{runs_folder(file), 0, fault_in_flight(file).what()}}};
    }
  }));
}

void Runs::take_in(const QString& name) {
  std::erase_if(list_.runs, [&](const Run& r) { return name_of(r) == name; });
  try {
    Run run = load_run(runs_folder(document_.file().toStdString()) / name.toStdString());
    const auto at = std::find_if(list_.runs.begin(), list_.runs.end(),
                                 [&](const Run& r) { return r.number() < run.number(); });
    list_.runs.insert(at, std::move(run));
  } catch (...) {
    Q_EMIT failed(QString::fromUtf8(fault_in_flight(name.toStdString()).what()));
  }
}

void Runs::start() { launch({document_.file()}); }

void Runs::start_from(int run, int frame) {
  launch({document_.file(), "--from", QString("%1:%2").arg(run).arg(frame)});
}

void Runs::resume() {
  if (const Run* r = chosen()) launch({QString::fromStdString(r->folder.string()), "--resume"});
}

void Runs::launch(const QStringList& what) {
  if (job_.busy() || document_.file().isEmpty()) return;
  under_way_.clear();
  current_frame_ = 0, seconds_left_ = 0;
  job_.start(QStringList{"run"} + what);
  Q_EMIT started();
  Q_EMIT changed();
}

void Runs::hear(const JobLine& line) {
  if (!line.run.empty()) {
    chosen_ = under_way_ = QFileInfo(QString::fromStdString(line.run)).fileName();
    if (compared_ == chosen_) compared_.clear();
    take_in(under_way_);
    settle();
  }
  if (!line.notice.empty()) Q_EMIT noticed(QString::fromStdString(line.notice));
  if (!line.record) return;
  current_frame_ = line.done;
  seconds_left_ = line.seconds_left;
  for (Run& r : list_.runs)
    if (name_of(r) == under_way_) {
      put_record(r, *line.record);
      if (!line.record->id.empty()) r.stored.insert(line.record->frame);
      // The first line brings data that was unknown before.
      if (r.cell_size == 0) take_in(under_way_);
      break;
    }
  Q_EMIT progress(current_frame_);
}

void Runs::finished(const Job::End& end) {
  if (!under_way_.isEmpty()) take_in(under_way_);
  settle();
  // A stop without a checkpoint is reported too.
  if (end.crashed && !end.stopped)
    Q_EMIT failed(tr("The run ended unexpectedly. All frames so far are kept; press Resume to go on."));
  else if (!end.ok)
    Q_EMIT failed(end.problem.isEmpty() ? tr("The run could not be stopped in order; its frames are kept.")
                                        : end.problem);
}

void Runs::toggle_pause() {
  job_.toggle_pause();
  Q_EMIT changed();
}

bool Runs::put_back() {
  if (in_trash_.isEmpty() || QFileInfo::exists(removed_) || !QDir().rename(in_trash_, removed_)) return false;
  // The entry in the trash.
  const QFileInfo was(in_trash_);
  QFile::remove(was.dir().filePath("../info/" + was.fileName() + ".trashinfo"));
  in_trash_.clear();
  reload();
  return true;
}

void Runs::stop() {
  if (!job_.busy()) {
    if (const auto w = writers_.find(chosen_); w != writers_.end() && !ask_to_stop(w->second))
      Q_EMIT failed(tr("This run is computed on another machine; stop it there."));
    return;
  }
  job_.stop();
  Q_EMIT changed();
}

void Runs::let_go() {
  if (!job_.busy()) return;
  job_.let_go();
  Q_EMIT changed();
}
