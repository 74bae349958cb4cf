// A mesh made smooth, and rid of its smallest bodies.
#pragma once
#include "shape/mesh.h"

namespace pour {

/// Over about so much length, m. What it takes off along the surface comes back as the mean around it, so
/// sheets, threads and bumps that are wider keep their volume; each body keeps its own exactly.
/// Method: diffusion over the mesh (Taubin 1995), applied to what it removed as well (Tukey's twicing).
void smooth(Mesh&, double length);

/// Whether the triangles around each point are far from flat.
std::vector<char> bends(const Mesh&);

/// Leaves out the bodies that have less volume than a ball so far across, and the cavities that have less
/// than another, m.
void drop_small(Mesh&, double body, double cavity);

}  // namespace pour
