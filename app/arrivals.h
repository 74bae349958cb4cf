// Reads files in the background, with progress and cancel.
#pragma once
#include <functional>
#include <QFutureSynchronizer>
#include <QObject>

#include "base/work.h"
#include "document.h"

class QWidget;

class Arrivals : public QObject {
  Q_OBJECT

 public:
  /// Shows progress over `window`.
  Arrivals(Document&, QWidget* window);
  ~Arrivals() override;
  /// Imports a file by its name, or a drawing as SVG text.
  void bring_in(const QString& what);
  /// Document::edit() with a change that may take long.
  void edit(const QString& what, const std::function<void(pour::Shot&)>& change);
  /// Whether it is reading or analysing.
  bool busy() const { return reading_.isRunning() || describing_ > 0 || !to_describe_.empty(); }
  /// Analyses the imported file on both cores; call it once the result is on screen.
  void describe_all();

 Q_SIGNALS:
  void arrived(const QString& piece);
  void described(const QString& words);  // description of the file, which may take longer than reading it
  void refused(const QString& why);

 private:
  /// Runs `read` on a thread and then `take` in the window's thread, unless cancelled.
  void run(const QString& words, const std::function<void(const pour::StopAsked&)>& read,
           const std::function<void()>& take);
  void describe(const pour::Shape& shape);
  std::vector<pour::Shape> to_describe_;
  Document& document_;
  QWidget* window_;
  QFuture<void> reading_;
  std::shared_ptr<std::atomic<bool>> given_up_;
  const std::shared_ptr<std::atomic<bool>> closing_ = std::make_shared<std::atomic<bool>>(false);
  QFutureSynchronizer<void> looking_;
  int describing_ = 0;
};
