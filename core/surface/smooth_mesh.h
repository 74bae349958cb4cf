// Smooths a mesh and removes its smallest bodies.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// Smooths over about this length, m. The removed offset is smoothed and added back, so wider features keep
/// their volume; each body keeps its volume exactly. Method: diffusion over the mesh (Taubin 1995), with
/// Tukey's twicing.
void smooth(Mesh&, double length);

/// Whether the surface around each vertex is strongly curved.
std::vector<char> bends(const Mesh&);

/// Removes bodies with less volume than a ball of this diameter, and cavities below another diameter, m.
void drop_small(Mesh&, double body, double cavity);

}  // namespace pour
