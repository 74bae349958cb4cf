// Local thickness of a liquid.
#pragma once
#include "frames/liquid_frame.h"

namespace pour {

/// The diameter of the largest ball of liquid that contains each point, m (Hildebrand & Rüegsegger 1997),
/// within half a cell. Sheets thinner than 1.5 cells count as 1.5. Same values at any thread count. Method:
/// exact distance transform (Felzenszwalb & Huttenlocher 2012) on the cells of the run; balls of more than
/// `most_radius` cells on lattices coarser by 2, 4 and so on.
std::vector<float> local_thickness(const LiquidPoints&);

}  // namespace pour
