// Reading netCDF: the variables along one dimension are the columns of a table (CF conventions).
#include <fmt/format.h>
#include <netcdf.h>

#include <algorithm>
#include <map>

#include "base/limits.h"
#include "base/result.h"
#include "files/array_reader.h"
#include "files/array_table.h"
#include "files/netcdf_header.h"
#include "files/workbook_reader.h"

namespace opensum {
namespace {

// An open file.
class NetcdfFile {
 public:
  explicit NetcdfFile(const std::string& path)
      : good_(::nc_open(path.c_str(), NC_NOWRITE, &id_) == NC_NOERR) {}
  ~NetcdfFile() {
    if (good_) ::nc_close(id_);
  }
  NetcdfFile(const NetcdfFile&) = delete;
  NetcdfFile& operator=(const NetcdfFile&) = delete;
  bool good() const { return good_; }
  int id() const { return id_; }

 private:
  int id_ = 0;
  bool good_;
};

std::optional<std::string> text_attribute(int group, int variable, const char* name) {
  nc_type type = 0;
  std::size_t size = 0;
  if (::nc_inq_att(group, variable, name, &type, &size) != NC_NOERR) return std::nullopt;
  if (type == NC_CHAR) {
    std::string text(size, '\0');
    if (::nc_get_att_text(group, variable, name, text.data()) != NC_NOERR) return std::nullopt;
    text.resize(std::min(text.find('\0'), text.size()));
    return text;
  }
  if (type != NC_STRING || size != 1) return std::nullopt;
  char* text = nullptr;
  if (::nc_get_att_string(group, variable, name, &text) != NC_NOERR || text == nullptr) return std::nullopt;
  std::string copy(text);
  ::nc_free_string(1, &text);
  return copy;
}

std::optional<double> number_attribute(int group, int variable, const char* name) {
  nc_type type = 0;
  std::size_t size = 0;
  double number = 0;
  if (::nc_inq_att(group, variable, name, &type, &size) != NC_NOERR || size != 1 || type == NC_CHAR ||
      type == NC_STRING || ::nc_get_att_double(group, variable, name, &number) != NC_NOERR)
    return std::nullopt;
  return number;
}

struct Variable {
  int group = 0;
  int id = 0;
  std::string name;
  nc_type type = 0;
  std::vector<int> dimensions;
};

std::string dimension_name(int group, int dimension) {
  std::string name(NC_MAX_NAME + 1, '\0');
  ::nc_inq_dimname(group, dimension, name.data());
  name.resize(name.find('\0'));
  return name;
}

std::size_t length_of(int group, int dimension) {
  std::size_t length = 0;
  ::nc_inq_dimlen(group, dimension, &length);
  return length;
}

std::vector<Variable> variables_of(int group) {
  int count = 0;
  ::nc_inq_nvars(group, &count);
  std::vector<Variable> found;
  for (int id = 0; id < count; ++id) {
    Variable variable{group, id, std::string(NC_MAX_NAME + 1, '\0'), 0, std::vector<int>(NC_MAX_VAR_DIMS)};
    int dimensions = 0;
    if (::nc_inq_var(group, id, variable.name.data(), &variable.type, &dimensions, variable.dimensions.data(),
                     nullptr) != NC_NOERR)
      continue;
    variable.name.resize(variable.name.find('\0'));
    variable.dimensions.resize(static_cast<std::size_t>(dimensions));
    found.push_back(std::move(variable));
  }
  return found;
}

std::string full_name(int group) {
  std::size_t size = 0;
  ::nc_inq_grpname_full(group, &size, nullptr);
  std::string name(size + 1, '\0');
  ::nc_inq_grpname_full(group, nullptr, name.data());
  name.resize(size);
  return name;
}

class NetcdfReader {
 public:
  NetcdfReader(const InputFile& file, const Place& place, Diagnostics& diagnostics)
      : file_(file), place_(place), diagnostics_(diagnostics) {}

  std::optional<RawTable> run(const std::optional<std::string>& part, Rows rows) {
    const bool whole = !is_netcdf(file_.text) || is_whole_netcdf_header(file_.text);
    if (!whole) return fail("it is damaged");
    const NetcdfFile opened(file_.path);
    if (!opened.good()) return fail("it is damaged");
    std::vector<int> groups;
    add_groups(opened.id(), 0, groups);
    std::vector<std::string> names;
    names.reserve(groups.size());
    for (const int group : groups) names.push_back(full_name(group));
    std::optional<std::string> wanted = part;
    if (wanted && !wanted->starts_with('/')) wanted = "/" + *wanted;
    const auto number = find_part(file_.path, "group", names, wanted, place_, diagnostics_);
    return number ? read_group(groups[*number], file_.path + (names.size() > 1 ? "#" + names[*number] : ""),
                               rows)
                  : std::nullopt;
  }

 private:
  std::nullopt_t fail(const std::string& why) {
    diagnostics_.add(Code::file_damaged, place_, {file_.path, "netCDF", why});
    return std::nullopt;
  }

  // The groups that have variables along a dimension.
  static void add_groups(int group, int depth, std::vector<int>& found) {
    const std::vector<Variable> variables = variables_of(group);
    if (std::any_of(variables.begin(), variables.end(),
                    [](const Variable& variable) { return !variable.dimensions.empty(); }))
      found.push_back(group);
    int count = 0;
    if (depth > kDeepestGroups || ::nc_inq_grps(group, &count, nullptr) != NC_NOERR) return;
    std::vector<int> inner(static_cast<std::size_t>(count));
    ::nc_inq_grps(group, &count, inner.data());
    for (const int one : inner) add_groups(one, depth + 1, found);
  }

  // Texts of characters have a further dimension, along which they run.
  static bool is_text(const Variable& variable) {
    return variable.type == NC_CHAR && variable.dimensions.size() == 2;
  }

  std::optional<RawTable> read_group(int group, const std::string& name, Rows rows) {
    const std::vector<Variable> variables = variables_of(group);
    std::map<int, std::size_t> along;
    for (const Variable& variable : variables) {
      if (!variable.dimensions.empty()) ++along[variable.dimensions[0]];
    }
    // The dimension that most variables run along; of several the longest.
    int dimension = along.begin()->first;
    for (const auto& [one, count] : along) {
      const bool more = count > along[dimension] ||
                        (count == along[dimension] && length_of(group, one) > length_of(group, dimension));
      if (more) dimension = one;
    }
    std::vector<ArrayColumn> columns;
    std::vector<std::string> before;
    std::string left_out;
    for (const Variable& variable : variables) {
      const std::size_t known = columns.size();
      if (variable.dimensions.empty()) {
        add_line(variable, before);
        continue;
      }
      if (variable.dimensions[0] == dimension) add_columns(variable, variables, columns);
      // What says where the places across stand is in the headers.
      const bool says_across =
          variable.dimensions.size() == 1 && variable.name == dimension_name(group, variable.dimensions[0]);
      if (columns.size() == known && !says_across) left_out += (left_out.empty() ? "" : ", ") + variable.name;
    }
    if (columns.empty()) return fail("it holds no variable of numbers or texts");
    if (columns.size() > kMostColumns) {
      diagnostics_.add(Code::too_many_columns, place_,
                       {name, std::to_string(columns.size()), std::to_string(kMostColumns)});
      return std::nullopt;
    }
    const std::size_t length = length_of(group, dimension);
    if (!left_out.empty())
      diagnostics_.add(Code::arrays_left_out, place_, {name, std::to_string(length), left_out});
    return table_of_arrays(columns, length, before, file_, name, rows, diagnostics_);
  }

  static void add_line(const Variable& variable, std::vector<std::string>& before) {
    double number = 0;
    if (variable.type == NC_CHAR || variable.type == NC_STRING ||
        ::nc_get_var_double(variable.group, variable.id, &number) != NC_NOERR)
      return;
    before.push_back(
        fmt::format("{}: {} {}", variable.name, number_text(number, -1),
                    usual_unit(text_attribute(variable.group, variable.id, "units").value_or(""))));
  }

  static ArrayMeaning meaning_of(const Variable& variable) {
    const auto text = [&](const char* name) { return text_attribute(variable.group, variable.id, name); };
    const auto number = [&](const char* name) { return number_attribute(variable.group, variable.id, name); };
    ArrayMeaning meaning;
    meaning.unit = text("units").value_or("");
    meaning.label = text("long_name").value_or("");
    for (const char* name : {"_FillValue", "missing_value"}) {
      if (const auto stored = number(name)) meaning.missing.push_back(*stored);
    }
    // What the library fills with where nothing was written.
    if (variable.type == NC_DOUBLE) meaning.missing.push_back(NC_FILL_DOUBLE);
    if (variable.type == NC_FLOAT) meaning.missing.push_back(static_cast<double>(NC_FILL_FLOAT));
    meaning.scale = number("scale_factor").value_or(1);
    meaning.offset = number("add_offset").value_or(0);
    meaning.single = variable.type == NC_FLOAT;
    return meaning;
  }

  // The columns of a variable: one, or one for each place of its second dimension, whose own variable names
  // them: `absorbance 400 nm`.
  static void add_columns(const Variable& variable, const std::vector<Variable>& all,
                          std::vector<ArrayColumn>& columns) {
    if (variable.dimensions.size() > 2) return;
    const bool one = variable.dimensions.size() == 1 || is_text(variable);
    const std::size_t across = one ? 1 : length_of(variable.group, variable.dimensions[1]);
    if (across > kMostColumns) return;
    std::vector<double> places;
    std::string unit;
    if (!one) {
      const auto says = std::find_if(all.begin(), all.end(), [&](const Variable& v) {
        return v.dimensions.size() == 1 && v.dimensions[0] == variable.dimensions[1] &&
               v.name == dimension_name(v.group, v.dimensions[0]);
      });
      places.resize(across);
      if (says == all.end() || ::nc_get_var_double(says->group, says->id, places.data()) != NC_NOERR) {
        places.clear();
      } else {
        unit = usual_unit(text_attribute(says->group, says->id, "units").value_or(""));
      }
    }
    for (std::size_t i = 0; i < across; ++i) {
      ArrayColumn column;
      column.name = variable.name;
      column.meaning = meaning_of(variable);
      if (!one) {
        column.name += places.empty() ? fmt::format("_{}", i + 1)
                                      : fmt::format(" {}{}{}", number_text(places[i], -1),
                                                    unit.empty() ? "" : " ", unit);
        column.meaning.label = column.name;
      }
      const std::optional<TimeUnit> time = read_time_unit(column.meaning.unit);
      if (variable.type == NC_CHAR || variable.type == NC_STRING) {
        column.texts = [variable](std::size_t begin, std::size_t count, std::vector<std::string>& texts) {
          return read_texts(variable, begin, count, texts);
        };
      } else if (is_whole(variable.type) && !column.meaning.is_packed() &&
                 (time || column.meaning.missing.empty())) {
        column.is_time = time.has_value();
        column.texts = [variable, i, time, meaning = column.meaning](std::size_t begin, std::size_t count,
                                                                     std::vector<std::string>& texts) {
          return read_whole(
              variable, i, begin, count,
              [&](std::int64_t number) {
                return time ? meaning.cell(number, *time) : std::to_string(number);
              },
              texts);
        };
      } else {
        column.numbers = [variable, i](std::size_t begin, std::size_t count, std::vector<double>& numbers) {
          numbers.resize(count);
          const std::array<std::size_t, 2> start = {begin, i};
          const std::array<std::size_t, 2> size = {count, 1};
          return ::nc_get_vara_double(variable.group, variable.id, start.data(), size.data(),
                                      numbers.data()) == NC_NOERR;
        };
      }
      columns.push_back(std::move(column));
    }
  }

  static bool is_whole(nc_type type) {
    return type == NC_BYTE || type == NC_SHORT || type == NC_INT || type == NC_INT64 || type == NC_UBYTE ||
           type == NC_USHORT || type == NC_UINT || type == NC_UINT64;
  }

  // `text_of` makes a cell of a whole number; those beyond its type are texts themselves.
  static bool read_whole(const Variable& variable, std::size_t across, std::size_t begin, std::size_t count,
                         const std::function<std::string(std::int64_t)>& text_of,
                         std::vector<std::string>& texts) {
    const std::array<std::size_t, 2> start = {begin, across};
    const std::array<std::size_t, 2> size = {count, 1};
    texts.clear();
    const bool positive = variable.type == NC_UINT64;
    std::vector<long long> numbers(count);
    const int state =
        positive
            ? ::nc_get_vara_ulonglong(variable.group, variable.id, start.data(), size.data(),
                                      reinterpret_cast<unsigned long long*>(numbers.data()))
            : ::nc_get_vara_longlong(variable.group, variable.id, start.data(), size.data(), numbers.data());
    if (state != NC_NOERR) return false;
    for (const long long number : numbers)
      texts.push_back(positive && number < 0 ? std::to_string(static_cast<unsigned long long>(number))
                                             : text_of(number));
    return true;
  }

  static bool read_texts(const Variable& variable, std::size_t begin, std::size_t count,
                         std::vector<std::string>& texts) {
    texts.clear();
    if (variable.type == NC_STRING) {
      std::vector<char*> pointers(count);
      if (::nc_get_vara_string(variable.group, variable.id, &begin, &count, pointers.data()) != NC_NOERR)
        return false;
      for (const char* text : pointers) texts.emplace_back(text == nullptr ? "" : text);
      ::nc_free_string(count, pointers.data());
      return true;
    }
    const std::size_t width =
        variable.dimensions.size() == 2 ? length_of(variable.group, variable.dimensions[1]) : 1;
    std::string bytes(count * width, '\0');
    const std::array<std::size_t, 2> start = {begin, 0};
    const std::array<std::size_t, 2> size = {count, width};
    if (::nc_get_vara_text(variable.group, variable.id, start.data(), size.data(), bytes.data()) != NC_NOERR)
      return false;
    for (std::size_t i = 0; i < count; ++i) {
      std::string text = bytes.substr(i * width, width);
      text.resize(std::min(text.find('\0'), text.size()));
      while (!text.empty() && text.back() == ' ') text.pop_back();
      texts.push_back(std::move(text));
    }
    return true;
  }

  const InputFile& file_;
  const Place& place_;
  Diagnostics& diagnostics_;
};

}  // namespace

bool is_netcdf(std::string_view bytes) {
  return bytes.starts_with("CDF\x01") || bytes.starts_with("CDF\x02") || bytes.starts_with("CDF\x05");
}

Result<RawTable> read_netcdf(const std::shared_ptr<const InputFile>& file,
                             const std::optional<std::string>& part, const Place& place, Rows rows,
                             Diagnostics& diagnostics) {
  const auto alone = array_libraries();
  return NetcdfReader(*file, place, diagnostics).run(part, rows);
}

}  // namespace opensum
