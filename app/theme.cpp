#include "theme.h"

#include <QApplication>
#include <QDir>
#include <QFontDatabase>
#include <QPalette>
#include <QStyleFactory>

#include "base/file.h"

namespace {
Theme current;
}

const Theme& theme() { return current; }

bool system_is_dark() { return QApplication::palette().color(QPalette::Window).lightness() < 110; }

QFont numeral_font(int pixels) {
  QFont f(QStringLiteral("League Spartan"));
  f.setPixelSize(pixels);
  f.setWeight(QFont::Bold);
  return f;
}

void apply_theme(QApplication& app, bool dark) {
  const QDir fonts(QString::fromStdString((pour::share_folder() / "fonts").string()));
  for (const QString& file : fonts.entryList({"*.otf", "*.ttf"}))
    QFontDatabase::addApplicationFont(fonts.filePath(file));
  if (dark)
    current = {"#232726", "#1C201F", "#3A403E", "#E9ECE9", "#9BA5A1", "#4DB6AC", "#24403D",
               "#E58A62", "#D9B25E", "#3A3320", "#E07A6A", "#97BD74", "#0E1817", true};
  else
    current = {"#FBFAF7", "#F3F1EC", "#DDD8CD", "#23302F", "#5F6A66", "#0E6B66", "#E3EFEC",
               "#D9663B", "#8A661A", "#F8EED6", "#B0412F", "#4E7331", "#FFFFFF", false};
  app.setStyle(QStyleFactory::create("Fusion"));
  const Theme& t = current;
  QPalette p;
  p.setColor(QPalette::Window, t.side);
  p.setColor(QPalette::Base, t.panel);
  p.setColor(QPalette::AlternateBase, t.side);
  p.setColor(QPalette::Button, t.panel);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText, QPalette::ToolTipText})
    p.setColor(role, t.text);
  p.setColor(QPalette::PlaceholderText, t.quiet);
  p.setColor(QPalette::ToolTipBase, t.panel);
  p.setColor(QPalette::Highlight, t.accent);
  p.setColor(QPalette::HighlightedText, t.on_accent);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
    p.setColor(QPalette::Disabled, role, t.quiet);
  app.setPalette(p);
  QFont font(QStringLiteral("Inter"));
  font.setPixelSize(13);
  app.setFont(font);
  QString css = R"(
    QToolTip { background: @panel; color: @text; border: 1px solid @line; padding: 4px 6px; }
    QDialogButtonBox { dialogbuttonbox-buttons-have-icons: 0; }
    QLineEdit, QComboBox { background: @panel; border: 1px solid transparent; border-radius: 4px; padding: 1px 4px; color: @text; }
    QLineEdit:hover, QComboBox:hover { border-color: @line; }
    QLineEdit:focus, QComboBox:focus { border-color: @accent; }
    QComboBox { border-color: @line; padding: 2px 6px; }
    QComboBox::drop-down { border: none; width: 20px; }
    QComboBox::down-arrow { image: url(:/icons/down.svg); width: 10px; height: 10px; }
    QPushButton::menu-indicator { image: url(:/icons/down.svg); width: 10px; height: 10px; subcontrol-position: right center; right: 6px; }
    QComboBox QAbstractItemView { background: @panel; color: @text; selection-background-color: @soft; selection-color: @text; border: 1px solid @line; }
    QMenu { background: @panel; border: 1px solid @line; padding: 4px; }
    QMenu::item { padding: 5px 24px 5px 12px; border-radius: 4px; }
    QMenu::item:selected { background: @soft; color: @text; }
    QMenu::item:disabled { color: @quiet; }
    QMenu::separator { height: 1px; background: @line; margin: 4px 6px; }
    QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; border: none; }
    QScrollBar:vertical { background: transparent; width: 8px; margin: 0; }
    QScrollBar::handle:vertical { background: @line; border-radius: 4px; min-height: 32px; }
    QScrollBar::add-line, QScrollBar::sub-line { height: 0; }
    QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
    QCheckBox { spacing: 8px; }
    QPushButton, QToolButton { background: @panel; border: 1px solid @line; border-radius: 6px; padding: 5px 12px; color: @text; }
    QPushButton:hover, QToolButton:hover { border-color: @accent; }
    QPushButton:focus, QToolButton:focus { border-color: @accent; }
    QPushButton:disabled, QToolButton:disabled { color: @quiet; }
    QPushButton[role="main"] { background: @accent; color: @onaccent; border-color: @accent; font-weight: 600; padding: 7px 14px; }
    QPushButton[role="main"]:focus { border: 2px solid @text; padding: 6px 13px; }
    QPushButton[role="fix"] { color: @accent; border-color: @accent; font-weight: 600; padding: 4px 10px; }
    QPushButton[role="fix"]:disabled { color: @quiet; border-color: @line; }
    QFileDialog QToolButton { padding: 2px; }
    QPushButton[role="link"], QToolButton[role="link"] { border: none; background: transparent; color: @accent; padding: 3px 4px; text-align: left; font-weight: 500; }
    QPushButton[role="link"][flush="true"] { padding: 3px 0px; }
    QPushButton[role="link"]:hover, QToolButton[role="link"]:hover, QPushButton[role="link"]:focus { text-decoration: underline; }
    QPushButton[role="badge"] { background: @warnsoft; color: @warning; border: 1px solid @warning; border-radius: 12px; padding: 3px 12px; font-weight: 500; }
    QToolButton[role="token"], QPushButton[role="token"] { background: @soft; color: @accent; border: none; border-bottom: 1px solid @accent; border-radius: 4px; padding: 1px 6px; font-weight: 500; }
    QPushButton[role="token"]:focus { border: 1px solid @accent; }
    QPushButton[role="tab"] { border: none; border-bottom: 2px solid transparent; border-radius: 0; background: transparent; color: @quiet; padding: 6px 2px; font-weight: 500; }
    QPushButton[role="tab"]:checked { border-bottom-color: @accent; color: @text; font-weight: 600; }
    QPushButton[role="tab"]:focus { color: @accent; }
    QPushButton[role="stage"] { border: none; border-radius: 5px; background: transparent; color: #E8E6E1; padding: 4px 12px; }
    QPushButton[role="stage"]:checked { background: #FBFAF7; color: #23302F; font-weight: 600; }
    QPushButton[role="stage"]:focus { color: #8FD6C8; } QPushButton[role="stage"]:checked:focus { color: #0E6B66; }
    QFrame[role="card"] { background: @panel; border: 1px solid @line; border-radius: 8px; }
    QFrame[role="card"][chosen="true"] { border: 2px solid @accent; }
    QLabel[role="quiet"] { color: @quiet; font-size: 12px; }
    QLabel[role="tag"] { color: @quiet; border: 1px solid @line; border-radius: 6px; font-size: 10px; padding: 0px 3px; }
    QLabel[role="title"] { font-weight: 600; }
    QLabel[role="changed"] { color: @time; font-size: 12px; }
    QLabel[role="warning"] { color: @warning; font-weight: 600; }
    QLabel[role="fault"] { color: @fault; font-weight: 600; }
    QLabel[role="fine"] { color: @fine; font-weight: 600; }
    QProgressBar { background: @line; border: none; border-radius: 3px; height: 6px; max-height: 6px; }
    QProgressBar::chunk { background: @accent; border-radius: 3px; }
    QSlider::groove:horizontal { height: 4px; background: @line; border-radius: 2px; }
    QSlider::sub-page:horizontal { background: @accent; border-radius: 2px; }
    QSlider::handle:horizontal { background: @panel; border: 2px solid @accent; width: 8px; height: 8px; margin: -4px 0; border-radius: 6px; }
    QSlider::handle:horizontal:focus { background: @accent; }
  )";
  const std::pair<const char*, QColor> names[] = {{"@panel", t.panel},
                                                  {"@side", t.side},
                                                  {"@line", t.line},
                                                  {"@text", t.text},
                                                  {"@quiet", t.quiet},
                                                  {"@accent", t.accent},
                                                  {"@soft", t.soft},
                                                  {"@time", t.dark ? t.time : QColor("#A8481F")},
                                                  {"@warnsoft", t.warning_soft},
                                                  {"@warning", t.warning},
                                                  {"@fault", t.fault},
                                                  {"@fine", t.fine},
                                                  {"@onaccent", t.on_accent}};
  for (const auto& [name, color] : names) css.replace(name, color.name());
  app.setStyleSheet(css);
}
