// How thick a liquid is at each of its points.
#pragma once
#include "frames/liquid_frame.h"

namespace pour {

/// Of each point the diameter of the largest ball of liquid that holds it, m (“local thickness”, Hildebrand &
/// Rüegsegger 1997), within half a cell: a sheet that is thinner is as thick as one and a half. Same values
/// at any thread count. Method: the exact distance to where nothing is (Felzenszwalb & Huttenlocher 2012) on
/// the cells of its run; balls of more than `most_radius` cells on lattices that are coarser by 2, 4 and so
/// on.
std::vector<float> local_thickness(const LiquidPoints&);

}  // namespace pour
