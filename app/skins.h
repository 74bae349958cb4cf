// Cached skins of the chosen run, and the job that makes missing ones.
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
  /// Frames of the chosen run with current skins.
  const std::set<int>& kept() const { return kept_; }
  /// Number of finished frames; 0 without liquid.
  int frames() const { return frames_; }
  bool busy() const { return job_.busy(); }
  int done() const { return done_; }
  int of() const { return of_; }
  /// Progress or result.
  const QString& words() const { return words_; }

  /// For a run in progress, also makes those of later frames.
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
