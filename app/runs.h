// The runs of the shot: starting, pausing, stopping and resuming the process that computes, and what it
// has stored.
#pragma once
#include <memory>
#include <QObject>
#include <QProcess>
#include <QString>
#include <vector>

#include "document.h"
#include "run/run_folder.h"

class Runs : public QObject {
  Q_OBJECT

 public:
  explicit Runs(Document&, QObject* parent = nullptr);
  ~Runs() override;

  enum class State { idle, running, paused };
  State state() const { return state_; }
  /// Newest first.
  const std::vector<pour::Run>& all() const { return runs_; }
  /// The run that is looked at, or null.
  const pour::Run* chosen() const;
  void choose(const QString& name);
  /// The run that is shown beside it, or null.
  const pour::Run* compared() const;
  void compare(const QString& name);  // empty: none
  /// Moves a run that is not under way to the trash; false where that can't be done.
  bool remove(const QString& name);
  /// The one that was moved there last; false where that can't be done.
  bool put_back();
  /// The last frame of the chosen run that is finished.
  int frames_done() const { return chosen() ? chosen()->newest_frame() : 0; }
  /// Whether this run is being computed.
  bool under_way(const QString& name) const { return state_ != State::idle && name == under_way_; }

  double seconds_left() const { return seconds_left_; }
  int current_frame() const { return current_frame_; }
  /// A step's cost for each cell from the newest run that measured it, or 0.
  pour::Pace pace() const;
  bool can_resume() const;

  void start();
  void resume();
  void toggle_pause();
  void stop();  // keeps a checkpoint, so that it can be resumed
  void reload();

 Q_SIGNALS:
  void changed();  // list, choice or state
  void started();
  void progress(int frame);  // a frame was finished
  void failed(const QString& text);

 private:
  void launch(const QStringList& extra);
  void read_lines();
  void finished(int code, QProcess::ExitStatus status);
  const pour::Run* find(const QString& name) const;

  Document& document_;
  std::unique_ptr<QProcess> process_;
  QByteArray pending_, errors_;
  std::vector<pour::Run> runs_;
  QString chosen_, compared_, under_way_;
  QString removed_, in_trash_;  // where the last removed run was, and where it is
  State state_ = State::idle;
  double seconds_left_ = 0;
  int current_frame_ = 0;
  bool stopping_ = false;
};
