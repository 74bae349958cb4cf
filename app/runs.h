// The runs of the shot: starts, pauses, stops and resumes the simulation, and lists stored runs.
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
  /// Stops a run in progress and waits until it is stored; never kills it.
  ~Runs() override;

  using State = Job::State;
  /// Of the job started by this window.
  State state() const { return job_.state(); }
  bool stopping() const { return job_.stopping(); }
  /// Newest first.
  const std::vector<pour::Run>& all() const { return list_.runs; }
  /// Unreadable runs.
  const std::vector<pour::BadRun>& bad() const { return list_.bad; }
  /// The chosen run, or null.
  const pour::Run* chosen() const;
  void choose(const QString& name);
  /// The compared run, or null.
  const pour::Run* compared() const;
  void compare(const QString& name);  // empty: none
  /// Moves a run to the trash, if it is not in progress; false on failure.
  bool remove(const QString& name);
  /// Restores the last removed run; false on failure.
  bool put_back();
  /// The last finished frame of the chosen run.
  int frames_done() const { return chosen() ? chosen()->newest_frame() : 0; }
  /// Whether this run is in progress, in this window or another program.
  bool under_way(const QString& name) const { return is_ours(name) || writers_.count(name); }
  bool by_another(const QString& name) const { return !is_ours(name) && writers_.count(name); }

  double seconds_left() const { return seconds_left_; }
  int current_frame() const { return current_frame_; }
  /// Measured pace of the newest run that has one.
  pour::Pace pace() const;
  /// Whether the chosen run is incomplete and can be resumed here.
  bool can_resume() const;
  /// Whether the chosen run is in progress and can be stopped here.
  bool can_stop() const;

  void start();
  void start_from(int run, int frame);  // continues from a frame of an earlier run
  void resume();                        // the chosen run
  void toggle_pause();
  void stop();  // with a checkpoint, so that it can be resumed
  /// Detaches the run in progress, which then continues without the window.
  void let_go();
  void reload();

 Q_SIGNALS:
  void changed();  // list, choice or state
  void started();
  void progress(int frame);  // a frame is finished
  void noticed(const QString& text);
  void failed(const QString& text);

 private:
  void launch(const QStringList& arguments);
  void hear(const pour::JobLine&);
  void finished(const Job::End&);
  /// Reads or re-reads one run.
  void take_in(const QString& name);
  void settle();  // after the list changed
  void watch();
  void look_again();
  bool is_ours(const QString& name) const { return job_.busy() && name == under_way_; }
  const pour::Run* find(const QString& name) const;

  Document& document_;
  Job job_;
  pour::RunList list_;
  std::map<QString, pour::RunWriter> writers_;  // other programs, by run
  QString chosen_, compared_, under_way_;
  QString removed_, in_trash_;  // former and current place of the last removed run
  double seconds_left_ = 0;
  int current_frame_ = 0;
  int told_of_ = 0;  // last unreadable run reported
  QFileSystemWatcher disk_;
  QTimer disk_changed_, poll_;  // changes by other programs, and whether they still run
  QFutureWatcher<pour::RunList> looking_;
  QString looked_at_;  // file of the watched shot
};
