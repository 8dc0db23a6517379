// What counts, keeps and writes, and what R calls, compiled as one.
#include "group_moments.cpp"
#include "mapped.cpp"
#include "scales.cpp"
#include "tally.cpp"
#include "tile_cells.cpp"
#include "write_bytes.cpp"
#include "write_rows.cpp"
#include "RcppExports.cpp"
