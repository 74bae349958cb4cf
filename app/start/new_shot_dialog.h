// A new shot: pick a recipe by its job and picture or search for it, type the word.
#pragma once
#include <QDialog>

#include "shot/shot.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

class NewShotDialog : public QDialog {
  Q_OBJECT

 public:
  explicit NewShotDialog(QWidget* parent = nullptr);
  pour::Shot shot() const;

 private:
  pour::Shot chosen() const;  // the recipe as it is
  void show_jobs(QHBoxLayout&);
  /// Shows the recipes of the chosen job that the search fits, and chooses the first where none of them was.
  void filter();
  QLineEdit* search_ = nullptr;
  int job_ = -1;  // all
  QListWidget* recipes_ = nullptr;
  QLabel* none_ = nullptr;  // in place of recipes that don't fit
  QPushButton* start_ = nullptr;
  QLineEdit* text_ = nullptr;
};
