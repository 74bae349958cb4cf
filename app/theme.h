// Colours and type of the window, in a light and a dark variant.
#pragma once
#include <QColor>
#include <QFont>

class QApplication;

struct Theme {
  QColor panel, side, line, text, quiet, accent, soft, time, warning, warning_soft, fault, fine, on_accent;
  bool dark = false;
};
/// The variant in use.
const Theme& theme();
/// Loads the shipped fonts and dresses the application; dark where the system's palette is dark.
void apply_theme(QApplication&, bool dark);
bool system_is_dark();
QFont numeral_font(int pixels);
