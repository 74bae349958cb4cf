// The start page: recipes by job with pictures and search, the word, recent shots.
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
  /// The file to open instead of a recipe; empty: none.
  QString file() const { return file_; }
  /// A drawing or model for the recipe's mark or product; empty: its own.
  QString product() const { return product_; }
  /// Takes a file as if it were dropped: a shot is opened, a drawing or model goes into the recipe.
  void take(const QString& file);

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  pour::Shot chosen() const;  // the recipe's shot without the word
  void show_jobs(QHBoxLayout&, bool recent);
  /// Shows the recipes that match job and search, and selects the first if none of them is selected.
  void filter();
  QLineEdit* search_ = nullptr;
  int job_;
  QListWidget* recipes_ = nullptr;
  QLabel* none_ = nullptr;  // shown if no recipe matches
  QPushButton* start_ = nullptr;
  void add_recent(const Recent&);
  void open_file();
  /// The recipe of the selected card.
  QString file_of_card() const;
  QLineEdit* text_ = nullptr;
  QPushButton* own_ = nullptr;  // names the product, and takes another
  QString file_, product_;
};
