// A new shot: pick a recipe by its job and picture or search for it, type the word.
#pragma once
#include <QDialog>

#include "shot/shot.h"
#include "start/recent.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

class NewShotDialog : public QDialog {
  Q_OBJECT

 public:
  explicit NewShotDialog(const Recent& = Recent(), QWidget* parent = nullptr);
  pour::Shot shot() const;
  /// The shot that is to be opened in place of a recipe; empty: none.
  QString file() const { return file_; }

 private:
  pour::Shot chosen() const;  // the recipe as it is
  void show_jobs(QHBoxLayout&, bool recent);
  /// Shows the recipes of the chosen job that the search fits, and chooses the first where none of them was.
  void filter();
  QLineEdit* search_ = nullptr;
  int job_;
  QListWidget* recipes_ = nullptr;
  QLabel* none_ = nullptr;  // in place of recipes that don't fit
  QPushButton* start_ = nullptr;
  void add_recent(const Recent&);
  void open_file();
  /// What the chosen card stands for.
  QString file_of_card() const;
  QLineEdit* text_ = nullptr;
  QString file_;
};
