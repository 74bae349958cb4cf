// Sizes in the time strip, pixels.
#pragma once

inline constexpr int left_width = 368, right_gap = 40, ruler_height = 34, lane_height = 29, tall_height = 118;
inline constexpr int least_height = 92, most_height = 520;
inline constexpr int span_height = 8;  // bar over selected keys, at the bottom of the ruler
inline constexpr double key_reach = 8, least_bar = 6;
