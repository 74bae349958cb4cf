#include "runs.h"

#include <unistd.h>
#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QStandardPaths>
#include <QtConcurrent>

#include <csignal>

#include "background.h"
#include "base/error.h"
#include "base/file.h"

using namespace pour;

namespace {

constexpr int longest_wait = 60000;  // ms, for a run to be stored when the window goes
constexpr size_t most_watched = 60;  // runs

QString name_of(const Run& r) { return QString::fromStdString(r.name()); }

void ask_to_end(QProcess& process) {
  ::kill(pid_t(process.processId()), SIGCONT);
  process.terminate();
}

}  // namespace

Runs::Runs(Document& document, QObject* parent) : QObject(parent), document_(document) {
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
    // What the run of this window does, it tells itself.
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

Runs::~Runs() {
  looking_.waitForFinished();
  if (!process_) return;
  process_->disconnect(this);
  ask_to_end(*process_);
  if (!process_->waitForFinished(longest_wait)) (void)process_.release();  // to its own end
}

const Run* Runs::find(const QString& name) const {
  for (const Run& r : list_.runs)
    if (name_of(r) == name) return &r;
  return nullptr;
}

const Run* Runs::chosen() const { return find(chosen_); }
const Run* Runs::compared() const { return find(compared_); }

void Runs::choose(const QString& name) {
  // What was compared with changes places with what is looked at.
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

Pace Runs::pace() const {
  for (const Run& r : list_.runs)
    if (const Pace p = r.pace(); p.seconds_per_cell > 0) return p;
  return {};
}

bool Runs::can_resume() const {
  const Run* r = chosen();
  return state_ == State::idle && r && !under_way(chosen_) && r->program == EASY_POUR_VERSION &&
         is_unfinished(*r);
}

bool Runs::can_stop() const { return state_ != State::idle ? !stopping_ : by_another(chosen_); }

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
  looking_.setFuture(QtConcurrent::run([file = looked_at_.toStdString()]() -> RunList {
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
  if (state_ != State::idle || document_.file().isEmpty()) return;
  process_ = std::make_unique<QProcess>();
  pending_.clear(), errors_.clear(), under_way_.clear();
  stopping_ = false, current_frame_ = 0, seconds_left_ = 0;
  connect(process_.get(), &QProcess::readyReadStandardOutput, this, &Runs::read_lines);
  connect(process_.get(), &QProcess::readyReadStandardError, this,
          [this] { errors_ += process_->readAllStandardError(); });
  connect(process_.get(), &QProcess::finished, this, &Runs::finished);
  connect(process_.get(), &QProcess::errorOccurred, this, [this](QProcess::ProcessError e) {
    if (e != QProcess::FailedToStart) return;
    state_ = State::idle;
    Q_EMIT failed(tr("The program easy-pour-cli could not be started. It should stand beside easy-pour."));
    Q_EMIT changed();
  });
  // In the background: the window stays quick while all cores compute.
  QStringList arguments{"run", "--progress", "json", "--background"};
  arguments += what;
  state_ = State::running;
  process_->start(QDir(QCoreApplication::applicationDirPath()).filePath("easy-pour-cli"), arguments);
  Q_EMIT started();
  Q_EMIT changed();
}

void Runs::read_lines() {
  pending_ += process_->readAllStandardOutput();
  for (qsizetype end; (end = pending_.indexOf('\n')) >= 0;) {
    const QJsonObject line = QJsonDocument::fromJson(pending_.left(end)).object();
    pending_.remove(0, end + 1);
    if (line.contains("run")) {
      chosen_ = under_way_ = QFileInfo(line["run"].toString()).fileName();
      if (compared_ == chosen_) compared_.clear();
      take_in(under_way_);
      settle();
    } else if (line.contains("notice")) {
      Q_EMIT noticed(line["notice"].toString());
    } else if (line.contains("frame")) {
      current_frame_ = line["frame"].toInt();
      seconds_left_ = line["seconds_left"].toDouble();
      for (Run& r : list_.runs)
        if (name_of(r) == under_way_) try {
            const FrameRecord record =
                record_from_text(QJsonDocument(line["record"].toObject()).toJson().toStdString(), r.name());
            put_record(r, record);
            if (!record.id.empty()) r.stored.insert(record.frame);
            // The first one tells what is known only since then.
            if (r.cell_size == 0) take_in(under_way_);
            break;
          } catch (const Fault& f) {
            Q_EMIT failed(QString::fromUtf8(f.what()));
          }
      Q_EMIT progress(current_frame_);
    }
  }
}

void Runs::finished(int code, QProcess::ExitStatus status) {
  read_lines();
  errors_ += process_->readAllStandardError();
  process_.release()->deleteLater();
  const bool stopped = stopping_;
  state_ = State::idle, stopping_ = false;
  if (!under_way_.isEmpty()) take_in(under_way_);
  settle();
  // A stop that could not keep what there was is said too.
  if (status == QProcess::CrashExit && !stopped)
    Q_EMIT failed(tr("The run ended unexpectedly. All frames so far are kept; press Resume to go on."));
  else if (code != 0 || status == QProcess::CrashExit)
    Q_EMIT failed(errors_.isEmpty() ? tr("The run could not be stopped in order; its frames are kept.")
                                    : QString::fromUtf8(errors_).trimmed());
}

void Runs::toggle_pause() {
  if (state_ == State::idle || stopping_) return;
  ::kill(pid_t(process_->processId()), state_ == State::running ? SIGSTOP : SIGCONT);
  state_ = state_ == State::running ? State::paused : State::running;
  Q_EMIT changed();
}

bool Runs::put_back() {
  if (in_trash_.isEmpty() || QFileInfo::exists(removed_) || !QDir().rename(in_trash_, removed_)) return false;
  // What the trash noted of it.
  const QFileInfo was(in_trash_);
  QFile::remove(was.dir().filePath("../info/" + was.fileName() + ".trashinfo"));
  in_trash_.clear();
  reload();
  return true;
}

void Runs::stop() {
  if (state_ == State::idle) {
    if (const auto w = writers_.find(chosen_); w != writers_.end() && !ask_to_stop(w->second))
      Q_EMIT failed(tr("This run is computed on another machine; stop it there."));
    return;
  }
  stopping_ = true;
  ask_to_end(*process_);
  Q_EMIT changed();
}

void Runs::let_go() {
  if (state_ == State::idle) return;
  QProcess* process = process_.release();
  if (!stopping_) ::kill(pid_t(process->processId()), SIGCONT);
  state_ = State::idle, stopping_ = false;
  process->disconnect(this);
  // It is still heard, so that it never waits to be read; the window's end ends this, not the run.
  connect(process, &QProcess::finished, this, [this, process](int code) {
    if (code != 0) Q_EMIT failed(QString::fromUtf8(process->readAllStandardError()).trimmed());
    process->deleteLater();
  });
  Q_EMIT changed();
}
