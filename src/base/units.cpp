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

constexpr Dimension rate{"rate (1/s)", "1/s", "10 1/s"};  // of turns, of shear, of anything

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
                                    dimension::energy,
                                    dimension::surface_tension,
                                    dimension::force,
                                    dimension::power,
                                    dimension::mass,
                                    rate,
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
    constexpr std::array<std::array<const char*, 2>, 21> extra{{{"cP", "0.001 Pa.s"},
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
                                                                {"mmH2O", "9.80665 Pa"},
                                                                {"cmH2O", "98.0665 Pa"},
                                                                {"psig", "6894.757293168 Pa"},
                                                                {"psia", "6894.757293168 Pa"},
                                                                {"bara", "100000 Pa"},
                                                                {"lpm", "1.6666666666666667e-5 m3/s"},
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

/// Spellings that people use, and what udunits calls them; both are whole words.
constexpr std::array<std::array<std::string_view, 2>, 34> spellings{{{"US gallons", "USgal"},
                                                                     {"US gallon", "USgal"},
                                                                     {"U.S. gal", "USgal"},
                                                                     {"US gal", "USgal"},
                                                                     {"imperial gallons", "UKgal"},
                                                                     {"imperial gallon", "UKgal"},
                                                                     {"imp. gal", "UKgal"},
                                                                     {"imp gal", "UKgal"},
                                                                     {"UK gallons", "UKgal"},
                                                                     {"UK gallon", "UKgal"},
                                                                     {"UK gal", "UKgal"},
                                                                     {"US gpm", "USgpm"},
                                                                     {"deg C", "degC"},
                                                                     {"degrees C", "degC"},
                                                                     {"Celsius", "degC"},
                                                                     {"deg F", "degF"},
                                                                     {"bar g", "barg"},
                                                                     {"bar(g)", "barg"},
                                                                     {"bar(a)", "bara"},
                                                                     {"bar a", "bara"},
                                                                     {"RPM", "rpm"},
                                                                     {"LPM", "lpm"},
                                                                     {"hrs", "h"},
                                                                     {"hr", "h"},
                                                                     {"secs", "s"},
                                                                     {"sec", "s"},
                                                                     {"mins", "min"},
                                                                     {"ltr", "L"},
                                                                     {"mPa s", "mPa.s"},
                                                                     {"Pa s", "Pa.s"},
                                                                     {"Psi", "psi"},
                                                                     {"PSI", "psi"},
                                                                     {"dyne", "dyn"},
                                                                     {"kgs", "kg"}}};

bool is_letter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z'); }

/// The unit as udunits spells it.
std::string respelled(std::string_view unit) {
  std::string result(unit);
  for (const auto& [from, to] : spellings)
    for (std::size_t at = result.find(from); at != std::string::npos; at = result.find(from, at)) {
      const bool begins = at == 0 || !is_letter(result[at - 1]);
      const std::size_t end = at + from.size();
      if (begins && (end == result.size() || !is_letter(result[end]))) result.replace(at, from.size(), to);
      at += to.size();
    }
  return result;
}

Unit parse(std::string_view text) {
  text = trimmed(text);
  if (text.size() > 64) return nullptr;
  const std::string plain = respelled(text);
  // udunits takes "gal" for the galileo, an acceleration; nobody here means that.
  if (plain == "gal" || plain.starts_with("gal/")) return nullptr;
  return Unit(ut_parse(library().system, plain.c_str(), UT_UTF8));
}

constexpr std::array<const char*, 7> base_units{"m", "kg", "s", "K", "A", "mol", "cd"};

/// The SI unit with these powers.
Unit unit_of(const Powers& powers) {
  Unit result(ut_get_dimensionless_unit_one(library().system));
  for (std::size_t i = 0; i < powers.size(); ++i) {
    const auto power = static_cast<int>(powers[i]);
    if (power == 0) continue;
    const Unit base(ut_parse(library().system, base_units[i], UT_UTF8));
    const Unit raised(ut_raise(base.get(), power));
    result = Unit(ut_multiply(result.get(), raised.get()));
  }
  return result;
}

/// udunits itself also turns a unit into its reciprocal.
bool same_dimension(const ut_unit* a, const ut_unit* b) {
  const Unit ratio(ut_divide(a, b));
  return ratio && ut_is_dimensionless(ratio.get()) != 0;
}

std::optional<UnitScale> scale(ut_unit* from, const ut_unit* to) {
  if (to == nullptr || !same_dimension(from, to)) return std::nullopt;

  cv_converter* converter = ut_get_converter(from, const_cast<ut_unit*>(to));  // NOLINT(*-const-cast): udunits
  if (converter == nullptr) return std::nullopt;
  const double offset = cv_convert_double(converter, 0.0);
  const double factor = cv_convert_double(converter, 1.0) - offset;
  cv_free(converter);
  return UnitScale{factor, offset};
}

/// What a unit is made of, by way of udunits' visitor: products of basic units, scaled or shifted ones.
struct PowersFound {
  Powers powers{};
  bool known = true;

  static ut_status basic(const ut_unit* unit, void* self) {
    const int one = 1;
    return product(unit, 1, &unit, &one, self);
  }
  static ut_status product(const ut_unit*, int count, const ut_unit* const* units, const int* exponents, void* self) {
    auto& found = *static_cast<PowersFound*>(self);
    for (int k = 0; k < count; ++k) {
      const char* symbol = ut_get_symbol(units[k], UT_ASCII);
      const std::string_view name = symbol == nullptr ? std::string_view() : symbol;
      const auto* const base = std::ranges::find(base_units, name);
      if (base != base_units.end())
        found.powers[static_cast<std::size_t>(base - base_units.begin())] += exponents[k];
      else
        found.known = found.known && name == "rad";
    }
    return UT_SUCCESS;
  }
  static ut_status shifted(const ut_unit*, double, const ut_unit* inner, double, void* self) {
    return visit(inner, self);
  }
  static ut_status timestamp(const ut_unit*, const ut_unit*, double, void* self) { return unknown(self); }
  static ut_status logarithm(const ut_unit*, double, const ut_unit*, void* self) { return unknown(self); }
  static ut_status unknown(void* self) {
    static_cast<PowersFound*>(self)->known = false;
    return UT_SUCCESS;
  }
  static ut_status visit(const ut_unit* unit, void* self) {
    static constexpr ut_visitor visitor{basic, product, shifted, timestamp, logarithm};
    return ut_accept_visitor(unit, &visitor, self);
  }
};

std::optional<Powers> find_powers(const ut_unit* unit) {
  PowersFound found;
  if (PowersFound::visit(unit, &found) != UT_SUCCESS || !found.known) return std::nullopt;
  return found.powers;
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
  const auto powers = find_powers(parsed.get());
  if (!powers) return std::nullopt;
  auto result = scale(parsed.get(), unit_of(*powers).get());
  if (result) result->powers = *powers;
  return result;
}

Powers powers_of(const Dimension& dimension) { return scale_to_si(dimension.unit).value_or(UnitScale{}).powers; }

std::string kind_of(const Dimension& dimension) { return with_article(dimension.name); }

std::string kind_of(const Powers& powers) {
  for (const auto& candidate : all_dimensions)
    if (powers_of(candidate) == powers) return with_article(candidate.name);
  return "a quantity in " + si_unit_of(powers);
}

std::string si_unit_of(const Powers& powers) {
  for (const auto& candidate : all_dimensions)
    if (powers_of(candidate) == powers) return std::string(candidate.unit);
  std::string over;
  std::string under;
  int below = 0;
  for (std::size_t i = 0; i < powers.size(); ++i) {
    const double power = std::abs(powers[i]);
    if (power == 0) continue;
    std::string& part = powers[i] > 0 ? over : under;
    below += powers[i] > 0 ? 0 : 1;
    part += fmt::format("{}{}{}", part.empty() ? "" : " ", base_units[i], power == 1 ? "" : fmt::format("{:g}", power));
  }
  if (over.empty()) over = "1";
  if (below > 1) under = "(" + under + ")";
  return fmt::format("{}{}{}", over, under.empty() ? "" : "/", under);
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

  const auto converted = scale(parsed.get(), parse(wanted.unit).get());
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
                               [&](const char* name) { return respelled(unit).find(name) != std::string::npos; });
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
