#include "base/units.hpp"

#include <fmt/format.h>
#include <udunits2.h>

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>
#include <memory>
#include <mutex>

#include "base/error.hpp"
#include "base/text.hpp"

namespace wavy {
namespace {

constexpr std::array all_dimensions{dimension::number,
                                    dimension::length,
                                    dimension::time,
                                    dimension::speed,
                                    dimension::acceleration,
                                    dimension::density,
                                    dimension::dynamic_viscosity,
                                    dimension::kinematic_viscosity,
                                    dimension::temperature,
                                    dimension::pressure,
                                    dimension::volume,
                                    dimension::volume_flow,
                                    dimension::mass_flow,
                                    dimension::surface_tension,
                                    dimension::force,
                                    dimension::power,
                                    dimension::mass,
                                    dimension::rotation,
                                    dimension::area};

struct UnitDeleter {
  void operator()(ut_unit* unit) const { ut_free(unit); }
};
using Unit = std::unique_ptr<ut_unit, UnitDeleter>;

/// The unit database is read once (15 ms) and never changed afterwards; udunits itself is not thread-safe.
struct Library {
  ut_system* system = nullptr;
  std::mutex mutex;

  Library() {
    ut_set_error_message_handler(ut_ignore);
    system = ut_read_xml(nullptr);
    if (system == nullptr)
      throw failure("the unit database of udunits2 cannot be read", "install the package libudunits2-data");
    // Units of the trade that the database lacks.
    constexpr std::array<std::array<const char*, 2>, 15> extra{{{"cP", "0.001 Pa.s"},
                                                                {"mPas", "0.001 Pa.s"},
                                                                {"cSt", "1e-6 m2/s"},
                                                                {"USgal", "0.003785411784 m3"},
                                                                {"UKgal", "0.00454609 m3"},
                                                                {"USgpm", "6.30901964e-5 m3/s"},
                                                                {"deg", "degree"},
                                                                {"rev", "6.283185307179586 rad"},
                                                                {"rpm", "0.10471975511965977 rad/s"},
                                                                {"dyn", "1e-5 N"},
                                                                {"barg", "100000 Pa"},
                                                                {"mbar", "100 Pa"},
                                                                {"psi", "6894.757293168 Pa"},
                                                                {"mH2O", "9806.65 Pa"},
                                                                {"cps", "0.001 Pa.s"}}};
    for (const auto& [name, definition] : extra) {
      const Unit known(ut_get_unit_by_name(system, name));
      const Unit symbol(ut_get_unit_by_symbol(system, name));
      if (known || symbol) continue;
      const Unit unit(ut_parse(system, definition, UT_UTF8));
      if (unit) ut_map_name_to_unit(name, UT_UTF8, unit.get());
    }
  }
  ~Library() { ut_free_system(system); }
  Library(const Library&) = delete;
  Library& operator=(const Library&) = delete;
  Library(Library&&) = delete;
  Library& operator=(Library&&) = delete;
};

Library& library() {
  static Library instance;
  return instance;
}

std::string_view trimmed(std::string_view text) {
  const auto is_blank = [](char c) { return c == ' ' || c == '\t'; };
  while (!text.empty() && is_blank(text.front())) text.remove_prefix(1);
  while (!text.empty() && is_blank(text.back())) text.remove_suffix(1);
  return text;
}

Unit parse(std::string_view text) {
  text = trimmed(text);
  if (text.size() > 64) return nullptr;
  std::string plain(text);
  // udunits takes "gal" for the galileo, an acceleration; nobody here means that.
  if (plain == "gal" || plain.starts_with("gal/")) return nullptr;
  return Unit(ut_parse(library().system, plain.c_str(), UT_UTF8));
}

/// udunits itself also turns a unit into its reciprocal.
bool same_dimension(const ut_unit* a, const ut_unit* b) {
  const Unit ratio(ut_divide(a, b));
  return ratio && ut_is_dimensionless(ratio.get()) != 0;
}

std::optional<UnitScale> scale(ut_unit* from, std::string_view to_name) {
  const Unit to = parse(to_name);
  if (!to || !same_dimension(from, to.get())) return std::nullopt;

  cv_converter* converter = ut_get_converter(from, to.get());
  if (converter == nullptr) return std::nullopt;
  const double offset = cv_convert_double(converter, 0.0);
  const double factor = cv_convert_double(converter, 1.0) - offset;
  cv_free(converter);
  return UnitScale{factor, offset};
}

const Dimension* dimension_of(ut_unit* unit) {
  for (const auto& candidate : all_dimensions) {
    const Unit si = parse(candidate.unit);
    if (si && same_dimension(unit, si.get())) return &candidate;
  }
  return nullptr;
}

std::string with_article(std::string_view name) {
  const bool vowel = !name.empty() && std::string_view("aeiou").find(name.front()) != std::string_view::npos;
  return fmt::format("{} {}", vowel ? "an" : "a", name);
}

}  // namespace

std::optional<UnitScale> scale_to_si(std::string_view unit) {
  const std::lock_guard lock(library().mutex);
  const Unit parsed = parse(unit);
  if (!parsed) return std::nullopt;
  if (const Dimension* known = dimension_of(parsed.get())) return scale(parsed.get(), known->unit);
  return std::nullopt;
}

std::optional<double> read_quantity(std::string_view text, const Dimension& wanted, UnitProblem& problem) {
  const std::string_view given = trimmed(text);
  const std::string remedy =
      fmt::format("write {} with its unit, for example \"{}\"", with_article(wanted.name), wanted.example);
  std::string_view digits = given;
  if (digits.starts_with('+')) digits.remove_prefix(1);
  double value = 0;
  const auto [end, status] = std::from_chars(digits.data(), digits.data() + digits.size(), value);
  if (status != std::errc{} || !std::isfinite(value)) {
    problem = {fmt::format("'{}' does not start with a number", given.substr(0, 60)), remedy};
    return std::nullopt;
  }
  const std::string_view unit = trimmed(digits.substr(static_cast<std::size_t>(end - digits.data())));
  if (unit.empty()) {
    if (wanted.unit == "1" || value == 0) return value;
    problem = {fmt::format("'{}' has no unit; {} is needed here", given.substr(0, 60), with_article(wanted.name)),
               remedy};
    return std::nullopt;
  }
  const std::lock_guard lock(library().mutex);
  const Unit parsed = parse(unit);
  if (!parsed) {
    if (unit == "gal" || unit.starts_with("gal/") || unit == "gpm") {
      problem = {fmt::format("'{}' could mean the US or the imperial gallon", unit), "write USgal or UKgal"};
    } else {
      problem = {fmt::format("'{}' is not a unit that is known here", unit.substr(0, 40)), remedy};
    }
    return std::nullopt;
  }

  const auto converted = scale(parsed.get(), wanted.unit);
  if (!converted) {
    const Dimension* found = dimension_of(parsed.get());
    problem = {found != nullptr
                   ? fmt::format("'{}' is {}; {} is needed here", given.substr(0, 60), with_article(found->name),
                                 with_article(wanted.name))
                   : fmt::format("'{}' cannot be turned into {}", given.substr(0, 60), with_article(wanted.name)),
               remedy};
    return std::nullopt;
  }
  const auto says_angle = [&] {
    return std::ranges::any_of(std::array{"rev", "rpm", "rad", "deg"},
                               [&](const char* name) { return unit.find(name) != std::string_view::npos; });
  };
  if (wanted.unit == dimension::rotation.unit && !says_angle()) {
    problem = {fmt::format("'{}' could mean turns or radians", given.substr(0, 60)), "write rev/min, rev/s or rad/s"};
    return std::nullopt;
  }
  const double result = converted->factor * value + converted->offset;
  if (!std::isfinite(result)) {
    problem = {fmt::format("'{}' is out of range", given.substr(0, 60)), remedy};
    return std::nullopt;
  }
  return result;
}

}  // namespace wavy
