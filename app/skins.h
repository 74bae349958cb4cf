// The skins that are kept of the chosen run: which there are, and making the rest beside the window.
#pragma once
#include <atomic>
#include <QFutureWatcher>
#include <QObject>
#include <QTimer>
#include <set>

#include "document.h"

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
  bool busy() const { return making_.isRunning(); }
  int done() const { return done_; }
  /// How far it is, or what came of it.
  const QString& words() const { return words_; }

  void make();
  void stop() { cancel_ = true; }

 Q_SIGNALS:
  void changed();

 private:
  void look();
  Document& document_;
  Runs& runs_;
  std::set<int> kept_;
  int frames_ = 0, done_ = 0;
  QString words_;
  QTimer timer_;
  QFutureWatcher<std::set<int>> looking_;
  bool again_ = false;
  QFutureWatcher<QString> making_;
  std::atomic<bool> cancel_{false};
};
