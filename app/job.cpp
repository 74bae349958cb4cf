#include "job.h"

#include <QCoreApplication>
#include <QDir>

#include <csignal>

#include "base/error.h"
#include "base/units.h"

using namespace pour;

namespace {

void ask_to_end(QProcess& process) {
  ::kill(pid_t(process.processId()), SIGCONT);
  process.terminate();
}

}  // namespace

QString how_far(const JobLine& line) {
  return QCoreApplication::translate("Job", "%1 of %2, %3 left")
      .arg(line.done)
      .arg(line.of)
      .arg(QString::fromStdString(format_duration(line.seconds_left)));
}

Job::Job(int longest_wait, QObject* parent) : QObject(parent), longest_wait_(longest_wait) {}

Job::~Job() {
  if (!process_) return;
  process_->disconnect(this);
  ask_to_end(*process_);
  if (!process_->waitForFinished(longest_wait_)) (void)process_.release();  // to its own end
}

void Job::start(const QStringList& command, const QByteArray& input) {
  if (busy()) return;
  process_ = std::make_unique<QProcess>();
  pending_.clear(), errors_.clear();
  stopping_ = false, told_end_ = JobLine::End::none;
  connect(process_.get(), &QProcess::readyReadStandardOutput, this, &Job::read_lines);
  connect(process_.get(), &QProcess::readyReadStandardError, this,
          [this] { errors_ += process_->readAllStandardError(); });
  connect(process_.get(), &QProcess::finished, this, &Job::finished);
  connect(process_.get(), &QProcess::errorOccurred, this, [this](QProcess::ProcessError e) {
    if (e != QProcess::FailedToStart) return;
    process_.release()->deleteLater();
    state_ = State::idle;
    Q_EMIT ended(
        {.problem = tr("The program easy-pour-cli could not be started. It should stand beside easy-pour.")});
  });
  state_ = State::running;
  // In the background: the window stays quick while all cores compute.
  process_->start(QDir(QCoreApplication::applicationDirPath()).filePath("easy-pour-cli"),
                  command + QStringList{"--progress", "json", "--background"});
  if (!process_) return;
  process_->write(input);
  process_->closeWriteChannel();
}

void Job::read_lines() {
  pending_ += process_->readAllStandardOutput();
  for (qsizetype end; (end = pending_.indexOf('\n')) >= 0;) {
    const std::string text = pending_.left(end).toStdString();
    pending_.remove(0, end + 1);
    try {
      const JobLine line = job_line(text);
      if (line.end != JobLine::End::none) told_end_ = line.end;
      Q_EMIT told(line);
    } catch (const Fault& f) {
      errors_ += f.what();
    }
  }
}

void Job::finished(int code, QProcess::ExitStatus status) {
  read_lines();
  errors_ += process_->readAllStandardError();
  process_.release()->deleteLater();
  End end{.ok = code == 0 && status == QProcess::NormalExit,
          .crashed = status == QProcess::CrashExit,
          .stopped = told_end_ == JobLine::End::none ? stopping_ : told_end_ == JobLine::End::stopped,
          .problem = {}};
  if (!end.ok) end.problem = QString::fromUtf8(errors_).trimmed();
  state_ = State::idle, stopping_ = false;
  Q_EMIT ended(end);
}

void Job::toggle_pause() {
  if (!busy() || stopping_) return;
  ::kill(pid_t(process_->processId()), state_ == State::running ? SIGSTOP : SIGCONT);
  state_ = state_ == State::running ? State::paused : State::running;
}

void Job::stop() {
  if (!busy()) return;
  stopping_ = true;
  ask_to_end(*process_);
}

void Job::let_go() {
  if (!busy()) return;
  QProcess* process = process_.release();
  if (!stopping_) ::kill(pid_t(process->processId()), SIGCONT);
  state_ = State::idle, stopping_ = false;
  process->disconnect(this);
  // It is still heard, so that it never waits to be read; the window's end ends this, not the job.
  connect(process, &QProcess::finished, this, [this, process](int code) {
    if (code != 0) Q_EMIT failed_alone(QString::fromUtf8(process->readAllStandardError()).trimmed());
    process->deleteLater();
  });
}
