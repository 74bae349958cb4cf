// Step five: makes and caches the skins of all frames, with progress and cancel.
#pragma once
#include <QWidget>

class QLabel;
class QProgressBar;
class QPushButton;
class Skins;

class SkinBox : public QWidget {
  Q_OBJECT

 public:
  explicit SkinBox(Skins&, QWidget* parent = nullptr);

 private:
  void refresh();
  Skins& skins_;
  QLabel *what_, *words_;
  QProgressBar* bar_;
  QPushButton *make_, *stop_;
};
