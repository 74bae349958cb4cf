// A curve over a driver: what it depends on, its points as text, and a picture of it.
#pragma once
#include <functional>

#include "document.h"
#include "shot/describe.h"

/// `show` brings it up to date.
QWidget* make_dependence(Document&, const QString& path, const pour::Setting&, QWidget* parent,
                         std::function<void(const pour::Setting&)>& show);
