// What can be done with a thing of the shot as a whole, from its card and on the stage.
#pragma once
#include "document.h"

class QMenu;

/// Adds what there is for the thing at a path, “pieces.jar”; actions are called “duplicate_pieces.jar”.
void fill_item_menu(QMenu*, Document&, const std::string& path);
