// The skins that are kept of the chosen run: which there are, and the job that makes the rest.
#pragma once
#include <QFutureWatcher>
#include <QObject>
#include <QTimer>
#include <set>

#include "document.h"
#include "job.h"

class Runs;

class Skins : public QObject {
  Q_OBJECT

 public:
  Skins(Document&, Runs&, QObject* parent = nullptr);
  ~Skins() override;
  /// The frames of the chosen run whose skins are as the shot says now.
  const std::set<int>& kept() const { return kept_; }
  /// The frames that there are so far; 0 without a run that has liquid.
  int frames() const { return frames_; }
  bool busy() const { return job_.busy(); }
  int done() const { return done_; }
  int of() const { return of_; }
  /// How far it is, or what came of it.
  const QString& words() const { return words_; }

  /// Of a run that is under way also those of the frames to come.
  void make();
  void stop() { job_.stop(); }

 Q_SIGNALS:
  void changed();

 private:
  void look();
  void hear(const pour::JobLine&);
  Document& document_;
  Runs& runs_;
  std::set<int> kept_;
  int frames_ = 0, done_ = 0, of_ = 0;
  QString words_;
  QTimer timer_;
  QFutureWatcher<std::set<int>> looking_;
  bool again_ = false;
  Job job_;
};
