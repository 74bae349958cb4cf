// What is read from files beside the window: it stays usable, and the reading can be cancelled.
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
  /// Shows its progress over `window`.
  Arrivals(Document&, QWidget* window);
  ~Arrivals() override;
  /// Brings in a file by its name, or a drawing as text.
  void bring_in(const QString& what);
  /// Document::edit() with a change that may take long.
  void edit(const QString& what, const std::function<void(pour::Shot&)>& change);
  /// Whether something is read, or what was is looked at.
  bool busy() const { return reading_.isRunning() || describing_ > 0 || !to_describe_.empty(); }
  /// Looks at what came in, which takes both cores: to be called when it is seen.
  void describe_all();

 Q_SIGNALS:
  void arrived(const QString& piece);
  void described(const QString& words);  // what there is to know of it, which may take longer than to read it
  void refused(const QString& why);

 private:
  /// Does `read` on a thread of its own and then `take` in that of the window, unless it was given up.
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
