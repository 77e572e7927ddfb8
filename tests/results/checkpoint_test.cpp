#include "results/checkpoint.hpp"

#include <doctest/doctest.h>

#include <filesystem>
#include <string>

#include "base/error.hpp"
#include "base/files.hpp"
#include "temporary_folder.hpp"

using namespace wavy;

namespace {

Archive some(double time) {
  Archive a;
  a("time", time);
  std::vector<double> field(1000);
  for (std::size_t i = 0; i < field.size(); ++i) field[i] = time / (1.0 + static_cast<double>(i));
  std::vector<double> none;
  std::string text = "cell = \"1 cm\"\n";
  std::string empty;
  a.within("model", [&] {
    a("F", field);
    a.within("boundary", [&] { a("none", none); });
  });
  a("case", text);
  a("empty", empty);
  return a;
}

}  // namespace

TEST_CASE("a checkpoint is read back as it was written, and the one before is kept") {
  const TemporaryFolder folder;
  write_checkpoint(folder.path(), some(1));
  CHECK_FALSE(std::filesystem::exists(folder / checkpoint_before_name));
  write_checkpoint(folder.path(), some(2));
  write_checkpoint(folder.path(), some(3));
  const Archive newest = read_checkpoint(folder / checkpoint_name);
  CHECK(newest.reading());
  CHECK(newest.numbers() == some(3).numbers());
  CHECK(newest.texts() == some(3).texts());
  CHECK(read_checkpoint(folder / checkpoint_before_name).numbers() == some(2).numbers());
  for (const auto& entry : std::filesystem::directory_iterator(folder.path()))
    CHECK((entry.path().filename() == checkpoint_name || entry.path().filename() == checkpoint_before_name));
}

TEST_CASE("a checkpoint that is cut short, or has one bit changed, is refused") {
  const TemporaryFolder folder;
  write_checkpoint(folder.path(), some(1));
  const std::string whole = read_file(folder / checkpoint_name, 1U << 24U).value();
  const auto refused = [&](const std::string& content) {
    folder.write("damaged.h5", content);
    try {
      read_checkpoint(folder / "damaged.h5");
    } catch (const Error& error) {
      return error.fault() == Fault::input && error.place().file == (folder / "damaged.h5").string();
    }
    return false;
  };
  unsigned place = 1;
  for (int n = 0; n < 300; ++n) {
    place = place * 1664525U + 1013904223U;
    std::string flipped = whole;
    // A third of them in the head.
    const std::size_t at = place % (n % 3 == 0 ? 60 : whole.size());
    flipped[at] = static_cast<char>(flipped[at] ^ (1 << n % 8));
    CAPTURE(at);
    CHECK(refused(flipped));
    CHECK(refused(whole.substr(0, place % whole.size())));
  }
  CHECK(refused(""));
  CHECK(refused(whole + "x"));
  CHECK_THROWS_AS(read_checkpoint(folder / "none.h5"), Error);
  CHECK_THROWS_AS(read_checkpoint(folder.path()), Error);
}
