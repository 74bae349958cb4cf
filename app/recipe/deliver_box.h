// Step seven: size, quality, and delivery as video, images or contact sheet, with progress and cancel.
#pragma once
#include <QWidget>

#include "document.h"
#include "job.h"

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
  bool busy() const { return job_.busy(); }
  /// Starts without asking for a name; for buttons and tests.
  void make_video(const QString& file);
  void make_images(const QString& folder);
  void make_sheet(const QString& file);
  void make_test_film(const QString& file);

 Q_SIGNALS:
  void finished(bool ok, const QString& message);

 private:
  void refresh();
  void say(const QString& text);
  /// `what` are arguments of easy-pour-cli: destination and options.
  void begin(const QString& target, const QStringList& what);
  void hear(const pour::JobLine&);
  void end(const Job::End&);
  void make_images(const QString& folder, bool replace);
  void ask_to_replace();

  Document& document_;
  Runs& runs_;
  QComboBox *size_ = nullptr, *quality_ = nullptr, *stills_ = nullptr;
  QCheckBox *hold_ = nullptr, *follow_ = nullptr;
  QLabel* what_ = nullptr;
  QLabel* message_ = nullptr;
  QProgressBar* bar_ = nullptr;
  QPushButton *video_ = nullptr, *images_ = nullptr, *sheet_ = nullptr, *test_ = nullptr, *stop_ = nullptr;
  Job job_;
  QString target_;
  QStringList notices_;
  int in_the_way_ = 0;  // existing images with other settings
};
