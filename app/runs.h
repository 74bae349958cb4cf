// The runs of the shot: starting, pausing, stopping and resuming the job that computes, and what it has
// stored.
#pragma once
#include <map>
#include <QFileSystemWatcher>
#include <QFutureWatcher>
#include <QObject>
#include <QString>
#include <QTimer>
#include <vector>

#include "document.h"
#include "job.h"
#include "run/run_folder.h"
#include "run/run_lock.h"

class Runs : public QObject {
  Q_OBJECT

 public:
  explicit Runs(Document&, QObject* parent = nullptr);
  /// Stops a run that is under way and waits until it is stored; never ends it by force.
  ~Runs() override;

  using State = Job::State;
  /// Of the job that this window started.
  State state() const { return job_.state(); }
  bool stopping() const { return job_.stopping(); }
  /// Newest first.
  const std::vector<pour::Run>& all() const { return list_.runs; }
  /// Those that can't be read.
  const std::vector<pour::BadRun>& bad() const { return list_.bad; }
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
  /// Whether this run is being computed, by this window or by another program.
  bool under_way(const QString& name) const { return is_ours(name) || writers_.count(name); }
  bool by_another(const QString& name) const { return !is_ours(name) && writers_.count(name); }

  double seconds_left() const { return seconds_left_; }
  int current_frame() const { return current_frame_; }
  /// A step's cost for each cell from the newest run that measured it, or 0.
  pour::Pace pace() const;
  /// Whether something of the chosen run is to be computed yet, and may be from here.
  bool can_resume() const;
  /// Whether the chosen run is under way and may be stopped from here.
  bool can_stop() const;

  void start();
  void start_from(int run, int frame);  // goes on from a frame of an earlier run
  void resume();                        // the chosen run
  void toggle_pause();
  void stop();  // keeps a checkpoint, so that it can be resumed
  /// Lets the run that is under way go on by itself, also when this window is gone.
  void let_go();
  void reload();

 Q_SIGNALS:
  void changed();  // list, choice or state
  void started();
  void progress(int frame);  // a frame was finished
  void noticed(const QString& text);
  void failed(const QString& text);

 private:
  void launch(const QStringList& arguments);
  void hear(const pour::JobLine&);
  void finished(const Job::End&);
  /// Reads one run again, or for the first time.
  void take_in(const QString& name);
  void settle();  // after the list changed
  void watch();
  void look_again();
  bool is_ours(const QString& name) const { return job_.busy() && name == under_way_; }
  const pour::Run* find(const QString& name) const;

  Document& document_;
  Job job_;
  pour::RunList list_;
  std::map<QString, pour::RunWriter> writers_;  // other programs, by the run that they write
  QString chosen_, compared_, under_way_;
  QString removed_, in_trash_;  // where the last removed run was, and where it is
  double seconds_left_ = 0;
  int current_frame_ = 0;
  int told_of_ = 0;  // the bad run that was told of last
  QFileSystemWatcher disk_;
  QTimer disk_changed_, poll_;  // what another program writes, and whether it still does
  QFutureWatcher<pour::RunList> looking_;
  QString looked_at_;  // the shot that it looks for
};
