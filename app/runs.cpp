#include "runs.h"

#include <unistd.h>
#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QJsonDocument>
#include <QJsonObject>
#include <QStandardPaths>

#include <csignal>

#include "base/error.h"

using namespace pour;

Runs::Runs(Document& document, QObject* parent) : QObject(parent), document_(document) {
  connect(&document_, &Document::replaced, this, [this] {
    stop();
    chosen_.clear(), compared_.clear();
    reload();
  });
}

Runs::~Runs() {
  if (!process_) return;
  process_->disconnect(this);
  ::kill(pid_t(process_->processId()), SIGCONT);
  process_->terminate();
  if (!process_->waitForFinished(5000)) process_->kill(), process_->waitForFinished(1000);
}

const Run* Runs::find(const QString& name) const {
  for (const Run& r : runs_)
    if (QString::fromStdString(r.name()) == name) return &r;
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
  const Run* r = find(name);
  if (!r || under_way(name)) return false;
  const QString folder = QString::fromStdString(r->folder.string());
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
  for (const Run& r : runs_)
    if (const Pace p = r.pace(); p.seconds_per_cell > 0) return p;
  return {};
}

bool Runs::can_resume() const {
  if (state_ != State::idle) return false;
  const Run* r = chosen();
  return r && r->state != RunState::done && has_checkpoint(*r);
}

void Runs::reload() {
  runs_.clear();
  if (!document_.file().isEmpty()) runs_ = list_runs(document_.file().toStdString());
  if (!chosen() && !runs_.empty()) chosen_ = QString::fromStdString(runs_.front().name());
  Q_EMIT changed();
}

void Runs::start() { launch({}); }
void Runs::resume() { launch({"--resume"}); }

void Runs::launch(const QStringList& extra) {
  if (state_ != State::idle || document_.file().isEmpty()) return;
  process_ = std::make_unique<QProcess>();
  pending_.clear(), errors_.clear();
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
  QStringList arguments{"run", document_.file(), "--progress", "json", "--background"};
  arguments += extra;
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
      reload();
    } else if (line.contains("frame")) {
      current_frame_ = line["frame"].toInt();
      seconds_left_ = line["seconds_left"].toDouble();
      if (!find(under_way_)) reload();
      for (Run& r : runs_)
        if (QString::fromStdString(r.name()) == under_way_) try {
            r = load_run(r.folder);
          } catch (const Fault&) {  // in the midst of being replaced: the next line brings it
          }
      Q_EMIT progress(current_frame_);
    }
  }
}

void Runs::finished(int code, QProcess::ExitStatus status) {
  read_lines();
  errors_ += process_->readAllStandardError();
  process_.release()->deleteLater();
  state_ = State::idle;
  reload();
  if (stopping_) return;
  if (status == QProcess::CrashExit)
    Q_EMIT failed(tr("The run ended unexpectedly. All frames so far are kept; press Resume to go on."));
  else if (code != 0)
    Q_EMIT failed(QString::fromUtf8(errors_).trimmed());
}

void Runs::toggle_pause() {
  if (state_ == State::idle) return;
  ::kill(pid_t(process_->processId()), state_ == State::running ? SIGSTOP : SIGCONT);
  state_ = state_ == State::running ? State::paused : State::running;
  Q_EMIT changed();
}

bool Runs::put_back() {
  // A run that was started since may have its name; then it stays where it is.
  if (in_trash_.isEmpty() || QFileInfo::exists(removed_) || !QDir().rename(in_trash_, removed_)) return false;
  // What the trash noted of it.
  const QFileInfo was(in_trash_);
  QFile::remove(was.dir().filePath("../info/" + was.fileName() + ".trashinfo"));
  in_trash_.clear();
  reload();
  return true;
}

void Runs::stop() {
  if (state_ == State::idle) return;
  stopping_ = true;
  ::kill(pid_t(process_->processId()), SIGCONT);
  process_->terminate();
}
