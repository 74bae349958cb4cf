// The same Poisson system solved by hypre's PCG preconditioned by PFMG, each process holding a slab.
// Usage: mpirun -np 2 hypre_reference CELLS [repeats]; prints the best set-up and solve seconds over its
// settings.
#include <HYPRE_struct_ls.h>
#include <mpi.h>

#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <string>
#include <vector>

#include "core/poisson_problem.h"

int main(int argc, char** argv) {
  MPI_Init(&argc, &argv);
  HYPRE_Init();
  int rank = 0, ranks = 1;
  MPI_Comm_rank(MPI_COMM_WORLD, &rank);
  MPI_Comm_size(MPI_COMM_WORLD, &ranks);
  const int n = argc > 1 ? std::atoi(argv[1]) : 128, repeats = argc > 2 ? std::atoi(argv[2]) : 3;
  const PoissonProblem problem(n, true, true);
  const int z0 = n * rank / ranks, z1 = n * (rank + 1) / ranks;
  HYPRE_Int low[3] = {0, 0, z0}, high[3] = {n - 1, n - 1, z1 - 1};

  HYPRE_StructGrid grid;
  HYPRE_StructGridCreate(MPI_COMM_WORLD, 3, &grid);
  HYPRE_StructGridSetExtents(grid, low, high);
  HYPRE_StructGridAssemble(grid);
  HYPRE_StructStencil stencil;
  HYPRE_StructStencilCreate(3, 4, &stencil);  // symmetric: the diagonal and the faces towards smaller x, y, z
  HYPRE_Int offsets[4][3] = {{0, 0, 0}, {-1, 0, 0}, {0, -1, 0}, {0, 0, -1}};
  for (int i = 0; i < 4; ++i) HYPRE_StructStencilSetElement(stencil, i, offsets[i]);
  HYPRE_StructMatrix a;
  HYPRE_StructMatrixCreate(MPI_COMM_WORLD, grid, stencil, &a);
  HYPRE_StructMatrixSetSymmetric(a, 1);
  HYPRE_StructMatrixInitialize(a);
  HYPRE_StructVector b, x;
  HYPRE_StructVectorCreate(MPI_COMM_WORLD, grid, &b);
  HYPRE_StructVectorCreate(MPI_COMM_WORLD, grid, &x);
  HYPRE_StructVectorInitialize(b);
  HYPRE_StructVectorInitialize(x);
  const size_t cells = size_t(n) * size_t(n) * size_t(z1 - z0);
  std::vector<double> values(cells * 4), rhs(cells), zero(cells, 0.0);
  size_t at = 0;
  for (int z = z0; z < z1; ++z)
    for (int y = 0; y < n; ++y)
      for (int i = 0; i < n; ++i, ++at) {
        const int k = problem.block(i, y, z), c = PoissonProblem::cell(i, y, z);
        const double d = problem.diagonal(k, c);
        values[at * 4] = d > 0 ? d : 1;
        for (int axis = 0; axis < 3; ++axis)
          values[at * 4 + 1 + size_t(axis)] = -problem.weight(i, y, z, axis);
        rhs[at] = problem.b.block(k)[c];
      }
  HYPRE_Int entries[4] = {0, 1, 2, 3};
  HYPRE_StructMatrixSetBoxValues(a, low, high, 4, entries, values.data());
  HYPRE_StructMatrixAssemble(a);
  HYPRE_StructVectorSetBoxValues(b, low, high, rhs.data());
  HYPRE_StructVectorAssemble(b);

  double best_setup = 1e9, best_solve = 1e9;
  int best_iterations = 0;
  std::string best_name;
  for (int relax = 1; relax <= 3; ++relax)  // weighted Jacobi, red-black, symmetric red-black
    for (int rap = 0; rap <= 1; ++rap)      // Galerkin or 7-point coarse operators
      for (int r = 0; r < repeats; ++r) {
        HYPRE_StructVectorSetBoxValues(x, low, high, zero.data());
        HYPRE_StructVectorAssemble(x);
        HYPRE_StructSolver pcg, pfmg;
        HYPRE_StructPCGCreate(MPI_COMM_WORLD, &pcg);
        HYPRE_StructPCGSetTol(pcg, 1e-6);
        HYPRE_StructPCGSetMaxIter(pcg, 200);
        HYPRE_StructPCGSetTwoNorm(pcg, 1);
        HYPRE_StructPFMGCreate(MPI_COMM_WORLD, &pfmg);
        HYPRE_StructPFMGSetMaxIter(pfmg, 1);
        HYPRE_StructPFMGSetTol(pfmg, 0);
        HYPRE_StructPFMGSetZeroGuess(pfmg);
        HYPRE_StructPFMGSetRelaxType(pfmg, relax);
        HYPRE_StructPFMGSetRAPType(pfmg, rap);
        HYPRE_StructPFMGSetNumPreRelax(pfmg, 1);
        HYPRE_StructPFMGSetNumPostRelax(pfmg, 1);
        HYPRE_StructPCGSetPrecond(pcg, HYPRE_StructPFMGSolve, HYPRE_StructPFMGSetup, pfmg);
        MPI_Barrier(MPI_COMM_WORLD);
        const double t0 = MPI_Wtime();
        HYPRE_StructPCGSetup(pcg, a, b, x);
        const double t1 = MPI_Wtime();
        HYPRE_StructPCGSolve(pcg, a, b, x);
        MPI_Barrier(MPI_COMM_WORLD);
        const double t2 = MPI_Wtime();
        HYPRE_Int iterations = 0;
        HYPRE_StructPCGGetNumIterations(pcg, &iterations);
        double residual = 1;
        HYPRE_StructPCGGetFinalRelativeResidualNorm(pcg, &residual);
        if (residual <= 1e-6 && t2 - t0 < best_setup + best_solve) {
          best_setup = t1 - t0, best_solve = t2 - t1, best_iterations = int(iterations);
          best_name = "relax " + std::to_string(relax) + " rap " + std::to_string(rap);
        }
        HYPRE_StructPCGDestroy(pcg);
        HYPRE_StructPFMGDestroy(pfmg);
      }
  if (rank == 0)
    std::printf("hypre PCG+PFMG %d^3, %d processes: set-up %.3f s, solve %.3f s, %d iterations (%s)\n", n,
                ranks, best_setup, best_solve, best_iterations, best_name.c_str());
  HYPRE_Finalize();
  MPI_Finalize();
  return 0;
}
