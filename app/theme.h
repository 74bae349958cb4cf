// Colours and fonts of the window, light and dark.
#pragma once
#include <QColor>
#include <QFont>

class QApplication;

struct Theme {
  QColor panel, side, line, text, quiet, accent, soft, time, warning, warning_soft, fault, fine, on_accent;
  bool dark = false;
};
/// The current variant.
const Theme& theme();
/// Loads the shipped fonts and styles the application; dark if the system's palette is dark.
void apply_theme(QApplication&, bool dark);
bool system_is_dark();
QFont numeral_font(int pixels);
