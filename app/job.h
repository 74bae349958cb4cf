// A background job: an easy-pour-cli process, its progress and its result.
#pragma once
#include <memory>
#include <QObject>
#include <QProcess>

#include "run/job_line.h"

/// Progress in words: “3 of 16, 20 s left”.
QString how_far(const pour::JobLine&);

class Job : public QObject {
  Q_OBJECT

 public:
  /// On destruction the job is asked to stop and waited for, up to `patience` ms; it is never killed.
  explicit Job(int longest_wait = 5000, QObject* parent = nullptr);
  ~Job() override;

  enum class State { idle, running, paused };
  State state() const { return state_; }
  bool busy() const { return state_ != State::idle; }
  bool stopping() const { return stopping_; }

  /// Starts a command with its arguments; `input` goes to its standard input. Does nothing while busy.
  void start(const QStringList& command, const QByteArray& input = {});
  void stop();
  void toggle_pause();
  /// Detaches the process, which then continues alone.
  void let_go();

  struct End {
    bool ok = false, crashed = false;
    bool stopped = false;  // before it finished
    QString problem;       // its error message, if it failed with one
  };

 Q_SIGNALS:
  void told(const pour::JobLine&);
  void ended(const Job::End&);
  /// A detached process failed.
  void failed_alone(const QString& problem);

 private:
  void read_lines();
  void finished(int code, QProcess::ExitStatus);
  const int longest_wait_;
  std::unique_ptr<QProcess> process_;
  QByteArray pending_, errors_;
  State state_ = State::idle;
  bool stopping_ = false;
  pour::JobLine::End told_end_ = pour::JobLine::End::none;
};
