// A job beside the window: easy-pour-cli at work, what it tells meanwhile, and how it ended.
#pragma once
#include <memory>
#include <QObject>
#include <QProcess>

#include "run/job_line.h"

/// “3 of 16, 20 s left”, of a line that tells how far it is.
QString how_far(const pour::JobLine&);

class Job : public QObject {
  Q_OBJECT

 public:
  /// When this goes, the job is asked to stop and waited for, at most so many ms; it is never ended by force.
  explicit Job(int longest_wait = 5000, QObject* parent = nullptr);
  ~Job() override;

  enum class State { idle, running, paused };
  State state() const { return state_; }
  bool busy() const { return state_ != State::idle; }
  bool stopping() const { return stopping_; }

  /// A command and what it takes, without how it tells; `input` is what it reads. Does nothing while busy.
  void start(const QStringList& command, const QByteArray& input = {});
  void stop();
  void toggle_pause();
  /// Lets it go on by itself, also when this is gone.
  void let_go();

  struct End {
    bool ok = false, crashed = false;
    bool stopped = false;  // before it was through
    QString problem;       // where it is not ok, in its words, if it had any
  };

 Q_SIGNALS:
  void told(const pour::JobLine&);
  void ended(const Job::End&);
  /// One that was let go has failed.
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
