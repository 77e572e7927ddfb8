// Tables as text and back.
#include "base/table.hpp"

#include <doctest/doctest.h>

#include <cmath>
#include <fstream>
#include <limits>

#include "temporary_folder.hpp"

using namespace wavy;

TEST_CASE("a table written as text comes back to the bit, with gaps where nothing was read") {
  const TemporaryFolder folder;
  const double none = std::numeric_limits<double>::quiet_NaN();
  const Table table{{"time", "level"}, {"s", "m"}, {{0, 0.1, 1.0 / 3}, {none, 1e-300, -2.5e17}}};
  std::ofstream(folder / "t.csv") << csv_text(table);
  long left_out = 0;
  const Table again = read_csv(folder / "t.csv", &left_out);
  CHECK(again.names == table.names);
  CHECK(again.units == table.units);
  CHECK(again.columns[0] == table.columns[0]);
  CHECK(std::isnan(again.columns[1][0]));
  CHECK(again.columns[1][1] == 1e-300);
  CHECK(again.columns[1][2] == -2.5e17);
  CHECK(left_out == 0);
  CHECK(csv_text({{"time"}, {"s"}, {{}}}) == "time [s]\n");
}
