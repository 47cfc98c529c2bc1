// Reading HDF5: the data sets of a group that have one length are the columns of a table.
#include <fmt/format.h>
#include <hdf5.h>

#include <algorithm>
#include <map>
#include <set>

#include "base/limits.h"
#include "base/result.h"
#include "files/array_reader.h"
#include "files/array_table.h"
#include "files/workbook_reader.h"

namespace opensum {
namespace {

// Lets go of what the library gave a number for.
class Handle {
 public:
  Handle(hid_t id, herr_t (*close)(hid_t)) : id_(id), close_(close) {}
  Handle(Handle&& from) noexcept : id_(std::exchange(from.id_, -1)), close_(from.close_) {}
  Handle(const Handle&) = delete;
  Handle& operator=(const Handle&) = delete;
  Handle& operator=(Handle&&) = delete;
  ~Handle() {
    if (id_ >= 0) close_(id_);
  }
  bool good() const { return id_ >= 0; }
  operator hid_t() const { return id_; }  // NOLINT(google-explicit-constructor): what the library takes

 private:
  hid_t id_;
  herr_t (*close_)(hid_t);
};

// A fixed or free text as it is stored, without what fills it up.
std::string stored_text(const char* begin, std::size_t size) {
  std::string text(begin, std::find(begin, begin + size, '\0'));
  while (!text.empty() && text.back() == ' ') text.pop_back();
  return text;
}

std::optional<std::string> text_attribute(hid_t object, const char* name) {
  if (H5Aexists(object, name) <= 0) return std::nullopt;
  const Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
  const Handle type(H5Aget_type(attribute), H5Tclose);
  if (!attribute.good() || H5Tget_class(type) != H5T_STRING) return std::nullopt;
  const Handle space(H5Aget_space(attribute), H5Sclose);
  if (H5Sget_simple_extent_npoints(space) != 1) return std::nullopt;
  if (H5Tis_variable_str(type) > 0) {
    char* text = nullptr;
    const Handle memory(H5Tcopy(type), H5Tclose);
    if (H5Aread(attribute, memory, &text) < 0 || text == nullptr) return std::nullopt;
    std::string copy(text);
    H5free_memory(text);
    return copy;
  }
  std::vector<char> bytes(H5Tget_size(type));
  if (H5Aread(attribute, type, bytes.data()) < 0) return std::nullopt;
  return stored_text(bytes.data(), bytes.size());
}

std::optional<double> number_attribute(hid_t object, const char* name) {
  if (H5Aexists(object, name) <= 0) return std::nullopt;
  const Handle attribute(H5Aopen(object, name, H5P_DEFAULT), H5Aclose);
  const Handle space(H5Aget_space(attribute), H5Sclose);
  double number = 0;
  if (!attribute.good() || H5Sget_simple_extent_npoints(space) != 1 ||
      H5Aread(attribute, H5T_NATIVE_DOUBLE, &number) < 0)
    return std::nullopt;
  return number;
}

// A data set as far as it may be columns.
struct DataSet {
  std::string name;
  hsize_t rows = 0;
  hsize_t across = 1;
};

// What a group holds.
struct Group {
  std::vector<DataSet> data;
  std::vector<std::string> scalars;  ///< of a single value
  std::vector<std::string> groups;
  bool whole = true;  ///< all members could be listed
};

DataSet shape_of(hid_t parent, const std::string& name) {
  const Handle set(H5Dopen2(parent, name.c_str(), H5P_DEFAULT), H5Dclose);
  const Handle space(H5Dget_space(set), H5Sclose);
  std::array<hsize_t, H5S_MAX_RANK> sizes{};
  const int rank = H5Sget_simple_extent_dims(space, sizes.data(), nullptr);
  if (rank == 1) return {name, sizes[0], 1};
  if (rank == 2) return {name, sizes[0], sizes[1]};
  return {name, 0, 0};
}

herr_t add_member(hid_t parent, const char* name, const H5L_info_t* /*link*/, void* into) {
  auto& group = *static_cast<Group*>(into);
  H5O_info_t info{};
  if (H5Oget_info_by_name2(parent, name, &info, H5O_INFO_BASIC, H5P_DEFAULT) < 0) return 0;
  if (info.type == H5O_TYPE_GROUP) group.groups.emplace_back(name);
  if (info.type != H5O_TYPE_DATASET) return 0;
  const DataSet set = shape_of(parent, name);
  if (set.rows > 0 && set.across > 0) {
    group.data.push_back(set);
  } else {
    group.scalars.emplace_back(name);
  }
  return 0;
}

Group members_of(hid_t group) {
  Group found;
  found.whole = H5Literate(group, H5_INDEX_NAME, H5_ITER_INC, nullptr, add_member, &found) >= 0;
  return found;
}

class Hdf5Reader {
 public:
  Hdf5Reader(const InputFile& file, const Place& place, Diagnostics& diagnostics)
      : file_(file), place_(place), diagnostics_(diagnostics) {}

  std::optional<RawTable> run(const std::optional<std::string>& part, Rows rows) {
    const Handle opened(H5Fopen(file_.path.c_str(), H5F_ACC_RDONLY, H5P_DEFAULT), H5Fclose);
    if (!opened.good()) return fail("it is damaged");
    const auto path = part ? part : only_group(opened);
    if (!path) return std::nullopt;
    const std::string inside = path->starts_with('/') ? *path : "/" + *path;
    if (inside != "/" && H5Lexists(opened, inside.c_str(), H5P_DEFAULT) <= 0)
      return not_found(opened, inside);
    H5O_info_t info{};
    if (H5Oget_info_by_name2(opened, inside.c_str(), &info, H5O_INFO_BASIC, H5P_DEFAULT) < 0)
      return not_found(opened, inside);
    std::string group = inside;
    Group members;
    if (info.type == H5O_TYPE_DATASET) {
      group = inside.substr(0, std::max<std::size_t>(inside.rfind('/'), 1));
      members.data.push_back(shape_of(opened, inside));
      members.data.back().name = inside.substr(inside.rfind('/') + 1);
    }
    const Handle place(H5Gopen2(opened, group.c_str(), H5P_DEFAULT), H5Gclose);
    if (members.data.empty()) members = members_of(place);
    if (!members.whole) return fail("what is in the group `" + group + "` cannot be listed");
    return read_group(place, members, file_.path + "#" + inside, rows);
  }

 private:
  std::nullopt_t fail(const std::string& why) {
    diagnostics_.add(Code::file_damaged, place_, {file_.path, "HDF5", why});
    return std::nullopt;
  }

  // The groups that hold data sets, with their paths.
  static void add_groups(hid_t group, const std::string& path, int depth, std::vector<std::string>& found) {
    const Group members = members_of(group);
    if (!members.data.empty()) found.push_back(path.empty() ? "/" : path);
    for (const std::string& name : members.groups) {
      const Handle inner(H5Gopen2(group, name.c_str(), H5P_DEFAULT), H5Gclose);
      if (inner.good() && depth < kDeepestGroups)
        add_groups(inner, fmt::format("{}/{}", path, name), depth + 1, found);
    }
  }

  std::vector<std::string> all_groups(hid_t opened) const {
    std::vector<std::string> found;
    const Handle root(H5Gopen2(opened, "/", H5P_DEFAULT), H5Gclose);
    add_groups(root, "", 0, found);
    return found;
  }

  std::optional<std::string> only_group(hid_t opened) {
    const std::vector<std::string> groups = all_groups(opened);
    const auto number = find_part(file_.path, "group", groups, std::nullopt, place_, diagnostics_);
    return number ? std::optional(groups[*number]) : std::nullopt;
  }

  std::nullopt_t not_found(hid_t opened, const std::string& path) {
    report_no_part(file_.path, "group", all_groups(opened), path, place_, diagnostics_);
    return std::nullopt;
  }

  // The data sets of the length that most of them have; the others are named.
  std::optional<RawTable> read_group(hid_t group, const Group& members, const std::string& name, Rows rows) {
    std::map<hsize_t, std::size_t> sets_of;
    for (const DataSet& set : members.data) ++sets_of[set.rows];
    if (sets_of.empty()) return fail("it holds no data set of numbers or texts");
    hsize_t length = 0;
    for (const auto& [size, count] : sets_of) {
      if (length == 0 || count >= sets_of[length]) length = size;
    }
    std::vector<ArrayColumn> columns;
    std::string left_out;
    for (const DataSet& set : members.data) {
      const std::size_t before = columns.size();
      if (set.rows == length) add_columns(group, set, columns);
      if (columns.size() == before)
        left_out +=
            fmt::format("{}{} ({} values)", left_out.empty() ? "" : ", ", set.name, set.rows * set.across);
    }
    if (columns.empty()) return fail("it holds no data set of numbers or texts");
    if (columns.size() > kMostColumns) {
      diagnostics_.add(Code::too_many_columns, place_,
                       {name, std::to_string(columns.size()), std::to_string(kMostColumns)});
      return std::nullopt;
    }
    if (!left_out.empty())
      diagnostics_.add(Code::arrays_left_out, place_, {name, std::to_string(length), left_out});
    return table_of_arrays(columns, length, lines_of(group, members), file_, name, rows, diagnostics_);
  }

  // Single values of the group, which hold for all rows.
  static std::vector<std::string> lines_of(hid_t group, const Group& members) {
    std::vector<std::string> lines;
    for (const std::string& name : members.scalars) {
      const Handle set(H5Dopen2(group, name.c_str(), H5P_DEFAULT), H5Dclose);
      const Handle space(H5Dget_space(set), H5Sclose);
      double number = 0;
      if (!set.good() || H5Sget_simple_extent_npoints(space) != 1 ||
          H5Dread(set, H5T_NATIVE_DOUBLE, H5S_ALL, H5S_ALL, H5P_DEFAULT, &number) < 0)
        continue;
      lines.push_back(fmt::format("{}: {} {}", name, number_text(number, -1),
                                  usual_unit(text_attribute(set, "units").value_or(""))));
    }
    return lines;
  }

  static ArrayMeaning meaning_of(hid_t set) {
    ArrayMeaning meaning;
    for (const char* name : {"units", "unit", "Units"}) {
      if (meaning.unit.empty()) meaning.unit = text_attribute(set, name).value_or("");
    }
    meaning.label = text_attribute(set, "long_name").value_or("");
    for (const char* name : {"_FillValue", "missing_value"}) {
      if (const auto number = number_attribute(set, name)) meaning.missing.push_back(*number);
    }
    meaning.scale = number_attribute(set, "scale_factor").value_or(1);
    meaning.offset = number_attribute(set, "add_offset").value_or(0);
    return meaning;
  }

  // The columns of a data set: one, or one for each place across, or for each member of a compound.
  static void add_columns(hid_t group, const DataSet& set, std::vector<ArrayColumn>& columns) {
    const auto data = std::make_shared<Handle>(H5Dopen2(group, set.name.c_str(), H5P_DEFAULT), H5Dclose);
    if (!data->good()) return;
    const Handle type(H5Dget_type(*data), H5Tclose);
    const ArrayMeaning meaning = meaning_of(*data);
    if (H5Tget_class(type) == H5T_COMPOUND && set.across == 1) {
      for (int i = 0; i < H5Tget_nmembers(type); ++i) {
        char* const name = H5Tget_member_name(type, static_cast<unsigned>(i));
        const Handle member(H5Tget_member_type(type, static_cast<unsigned>(i)), H5Tclose);
        add_column(data, set, 0, member, name, name, {}, columns);
        H5free_memory(name);
      }
      return;
    }
    for (hsize_t across = 0; across < set.across; ++across) {
      const std::string name = set.across == 1 ? set.name : fmt::format("{}_{}", set.name, across + 1);
      add_column(data, set, across, type, "", name, meaning, columns);
    }
  }

  static void add_column(const std::shared_ptr<Handle>& data, const DataSet& set, hsize_t across, hid_t type,
                         const std::string& member, const std::string& name, ArrayMeaning meaning,
                         std::vector<ArrayColumn>& columns) {
    ArrayColumn column;
    column.name = name;
    column.meaning = std::move(meaning);
    const H5T_class_t kind = H5Tget_class(type);
    const std::optional<TimeUnit> time = read_time_unit(column.meaning.unit);
    const bool whole =
        kind == H5T_INTEGER && !column.meaning.is_packed() && (time || column.meaning.missing.empty());
    column.meaning.single = kind == H5T_FLOAT && H5Tget_size(type) == sizeof(float);
    if (kind == H5T_STRING) {
      const auto memory = std::make_shared<Handle>(H5Tcopy(type), H5Tclose);
      column.texts = [=](std::size_t begin, std::size_t count, std::vector<std::string>& texts) {
        return read_texts(*data, set, across, begin, count, *memory, member, texts);
      };
    } else if (whole) {
      const bool positive = H5Tget_sign(type) == H5T_SGN_NONE;
      column.is_time = time.has_value();
      column.texts = [=, meaning = column.meaning](std::size_t begin, std::size_t count,
                                                   std::vector<std::string>& texts) {
        std::vector<std::int64_t> numbers(count);
        if (!read_numbers(*data, set, across, begin, count, positive ? H5T_NATIVE_UINT64 : H5T_NATIVE_INT64,
                          member, sizeof(std::int64_t), numbers.data()))
          return false;
        texts.clear();
        for (const std::int64_t number : numbers)
          texts.push_back(time                     ? meaning.cell(number, *time)
                          : positive && number < 0 ? std::to_string(static_cast<std::uint64_t>(number))
                                                   : std::to_string(number));
        return true;
      };
    } else if (kind == H5T_INTEGER || kind == H5T_FLOAT) {
      column.numbers = [=](std::size_t begin, std::size_t count, std::vector<double>& numbers) {
        numbers.resize(count);
        return read_numbers(*data, set, across, begin, count, H5T_NATIVE_DOUBLE, member, sizeof(double),
                            numbers.data());
      };
    } else {
      return;
    }
    columns.push_back(std::move(column));
  }

  // The rows from `begin` on at one place across.
  static Handle rows_of(hid_t data, const DataSet& set, hsize_t across, std::size_t begin,
                        std::size_t count) {
    Handle space(H5Dget_space(data), H5Sclose);
    const std::array<hsize_t, 2> start = {begin, across};
    const std::array<hsize_t, 2> size = {count, 1};
    static_cast<void>(set);
    if (H5Sselect_hyperslab(space, H5S_SELECT_SET, start.data(), nullptr, size.data(), nullptr) < 0)
      return {-1, H5Sclose};
    return space;
  }

  static bool read_numbers(hid_t data, const DataSet& set, hsize_t across, std::size_t begin,
                           std::size_t count, hid_t type, const std::string& member, std::size_t size,
                           void* to) {
    const Handle space = rows_of(data, set, across, begin, count);
    const hsize_t rows = count;
    const Handle memory(H5Screate_simple(1, &rows, nullptr), H5Sclose);
    if (!space.good()) return false;
    if (member.empty()) return H5Dread(data, type, memory, space, H5P_DEFAULT, to) >= 0;
    const Handle compound(H5Tcreate(H5T_COMPOUND, size), H5Tclose);
    if (!compound.good() || H5Tinsert(compound, member.c_str(), 0, type) < 0) return false;
    return H5Dread(data, compound, memory, space, H5P_DEFAULT, to) >= 0;
  }

  static bool read_texts(hid_t data, const DataSet& set, hsize_t across, std::size_t begin, std::size_t count,
                         hid_t type, const std::string& member, std::vector<std::string>& texts) {
    texts.clear();
    const std::size_t size = H5Tget_size(type);
    if (H5Tis_variable_str(type) > 0) {
      std::vector<char*> pointers(count);
      if (!read_numbers(data, set, across, begin, count, type, member, sizeof(char*), pointers.data()))
        return false;
      for (char* const text : pointers) {
        texts.emplace_back(text == nullptr ? "" : text);
        if (text != nullptr) H5free_memory(text);
      }
      return true;
    }
    std::vector<char> bytes(count * size);
    if (!read_numbers(data, set, across, begin, count, type, member, size, bytes.data())) return false;
    for (std::size_t i = 0; i < count; ++i) texts.push_back(stored_text(bytes.data() + i * size, size));
    return true;
  }

  const InputFile& file_;
  const Place& place_;
  Diagnostics& diagnostics_;
};

}  // namespace

bool is_hdf5(std::string_view bytes) { return bytes.starts_with("\x89HDF\r\n\x1A\n"); }

std::unique_lock<std::recursive_mutex> array_libraries() {
  static std::recursive_mutex one_at_a_time;
  std::unique_lock alone(one_at_a_time);
  H5Eset_auto2(H5E_DEFAULT, nullptr, nullptr);
  return alone;
}

Result<RawTable> read_hdf5(const std::shared_ptr<const InputFile>& file,
                           const std::optional<std::string>& part, const Place& place, Rows rows,
                           Diagnostics& diagnostics) {
  const auto alone = array_libraries();
  // A file of netCDF has dimensions, which only its own library knows.
  const std::string& path = file->path;
  if (path.ends_with(".nc") || path.ends_with(".nc4") || path.ends_with(".cdf"))
    return read_netcdf(file, part, place, rows, diagnostics);
  return Hdf5Reader(*file, place, diagnostics).run(part, rows);
}

}  // namespace opensum
