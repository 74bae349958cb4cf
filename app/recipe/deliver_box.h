// Step seven: size and quality, then a video, images or a sheet, with progress and a way to stop.
#pragma once
#include <atomic>
#include <QFutureWatcher>
#include <QWidget>

#include "deliver/deliver.h"
#include "document.h"

class QLabel;
class QLineEdit;
class QProgressBar;
class QPushButton;
class QCheckBox;
class QComboBox;
class Runs;

class DeliverBox : public QWidget {
  Q_OBJECT

 public:
  DeliverBox(Document&, Runs&, QWidget* parent = nullptr);
  ~DeliverBox() override;
  bool busy() const { return watcher_.isRunning(); }
  /// Starts without asking for a name; for the buttons and for tests.
  void make_video(const QString& file);
  void make_images(const QString& folder);
  void make_sheet(const QString& file);

 Q_SIGNALS:
  void finished(bool ok, const QString& message);

 private:
  void refresh();
  void say(const QString& text);
  using Make = std::function<bool(const pour::Run&, const pour::Shot&, const std::string& to,
                                  const pour::DeliverOptions&)>;
  /// `pictures`: at most so many; 0: all.
  void begin(const QString& target, const Make&, int pictures = 0);
  pour::DeliverOptions options_now() const;
  void make_images(const QString& folder, bool replace);
  void ask_to_replace(const QString& folder, int count);

  Document& document_;
  Runs& runs_;
  QComboBox *size_ = nullptr, *quality_ = nullptr, *stills_ = nullptr;
  QCheckBox* hold_ = nullptr;
  QLabel* what_ = nullptr;
  QLabel* message_ = nullptr;
  QProgressBar* bar_ = nullptr;
  QPushButton *video_ = nullptr, *images_ = nullptr, *sheet_ = nullptr, *stop_ = nullptr;
  QFutureWatcher<QString> watcher_;
  std::atomic<bool> cancel_{false};
};
