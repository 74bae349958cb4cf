// A new shot: pick a recipe by its picture, type the word.
#pragma once
#include <QDialog>

#include "shot/shot.h"

class QLineEdit;
class QListWidget;

class NewShotDialog : public QDialog {
  Q_OBJECT

 public:
  explicit NewShotDialog(QWidget* parent = nullptr);
  pour::Shot shot() const;

 private:
  pour::Shot chosen() const;  // the recipe as it is
  QListWidget* recipes_ = nullptr;
  QLineEdit* text_ = nullptr;
};
