// The drawer: runs with their picture and changes, and checks with their fixes.
#pragma once
#include <QFutureWatcher>
#include <QMap>
#include <QPixmap>
#include <QWidget>

#include "document.h"

namespace pour {
struct BadRun;
}
class Analyst;
class QPushButton;
class QScrollArea;
class QStackedWidget;
class QVBoxLayout;
class Runs;

class Drawer : public QWidget {
  Q_OBJECT

 public:
  Drawer(Document&, Runs&, Analyst&, QWidget* parent = nullptr);
  void show_checks();

 Q_SIGNALS:
  void removed(const QString& run, bool done);
  void going_on(int run, int frame);  // continue from a frame of an earlier run with the current shot

 private:
  void compare(const QString& run);
  void use_settings(const QString& run);
  void remove(const QString& run);
  void fill_runs();
  void make_cards();
  void make_bad_card(const pour::BadRun&);
  void fill_checks();
  void want_picture(const QString& run, int frame);
  void next_picture();

  struct Shot {
    QString run;
    int frame;
    QImage image;
  };
  Document& document_;
  Runs& runs_;
  Analyst& analyst_;
  QPushButton *runs_tab_ = nullptr, *checks_tab_ = nullptr;
  QStackedWidget* pages_ = nullptr;
  QVBoxLayout *runs_column_ = nullptr, *checks_column_ = nullptr;
  QMap<QString, QPair<int, QPixmap>> pictures_;
  QList<QPair<QString, int>> wanted_;
  QFutureWatcher<Shot> watcher_;
};
