// HDF5, netCDF, JSON lines and compressed files: what was written by their own libraries is what is read.
#include <gtest/gtest.h>
#include <hdf5.h>
#include <netcdf.h>
#include <zlib.h>
#include <zstd.h>

#include <array>
#include <cmath>
#include <limits>

#include "program/program.h"

namespace opensum {
namespace {

void text_attribute(hid_t object, const char* name, const std::string& text) {
  const hid_t type = H5Tcopy(H5T_C_S1);
  H5Tset_size(type, text.size());
  const hid_t space = H5Screate(H5S_SCALAR);
  const hid_t attribute = H5Acreate2(object, name, type, space, H5P_DEFAULT, H5P_DEFAULT);
  H5Awrite(attribute, type, text.data());
  H5Aclose(attribute);
  H5Sclose(space);
  H5Tclose(type);
}

void number_attribute(hid_t object, const char* name, double number) {
  const hid_t space = H5Screate(H5S_SCALAR);
  const hid_t attribute = H5Acreate2(object, name, H5T_NATIVE_DOUBLE, space, H5P_DEFAULT, H5P_DEFAULT);
  H5Awrite(attribute, H5T_NATIVE_DOUBLE, &number);
  H5Aclose(attribute);
  H5Sclose(space);
}

hid_t data_set(hid_t group, const char* name, hid_t type, const std::vector<hsize_t>& sizes,
               const void* values) {
  const hid_t space = H5Screate_simple(static_cast<int>(sizes.size()), sizes.data(), nullptr);
  const hid_t set = H5Dcreate2(group, name, type, space, H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
  EXPECT_GE(H5Dwrite(set, type, H5S_ALL, H5S_ALL, H5P_DEFAULT, values), 0);
  H5Sclose(space);
  return set;
}

// A group of data sets of three rows each, with what attributes say of them.
void write_hdf5(const std::string& path) {
  const hid_t file = H5Fcreate(path.c_str(), H5F_ACC_TRUNC, H5P_DEFAULT, H5P_DEFAULT);
  const hid_t entry = H5Gcreate2(file, "entry", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
  const hid_t group = H5Gcreate2(entry, "data", H5P_DEFAULT, H5P_DEFAULT, H5P_DEFAULT);
  const std::array<double, 3> voltage = {0.1, std::numeric_limits<double>::quiet_NaN(), 1.0 / 3};
  hid_t set = data_set(group, "voltage", H5T_NATIVE_DOUBLE, {3}, voltage.data());
  text_attribute(set, "units", "mV");
  text_attribute(set, "long_name", "Cell voltage");
  H5Dclose(set);
  const std::array<short, 3> packed = {100, -999, 250};
  set = data_set(group, "warm", H5T_NATIVE_SHORT, {3}, packed.data());
  text_attribute(set, "units", "degC");
  number_attribute(set, "scale_factor", 0.01);
  number_attribute(set, "add_offset", 20);
  number_attribute(set, "_FillValue", -999);
  H5Dclose(set);
  const std::array<double, 3> hours = {0, 0.5, 1};
  set = data_set(group, "when", H5T_NATIVE_DOUBLE, {3}, hours.data());
  text_attribute(set, "units", "hours since 2031-04-02 10:00:00");
  H5Dclose(set);
  const std::array<long long, 3> codes = {1, 2, 9007199254740993};
  H5Dclose(data_set(group, "big", H5T_NATIVE_LLONG, {3}, codes.data()));
  const std::array<float, 6> image = {0.1F, 0.2F, 0.3F, 0.4F, 0.5F, 0.6F};
  H5Dclose(data_set(group, "image", H5T_NATIVE_FLOAT, {3, 2}, image.data()));
  const hid_t text = H5Tcopy(H5T_C_S1);
  H5Tset_size(text, 4);
  H5Dclose(data_set(group, "name", text, {3}, "a,b\0c\0\0\0d\0\0"));
  H5Tclose(text);
  const std::array<double, 2> other = {1, 2};
  H5Dclose(data_set(group, "other", H5T_NATIVE_DOUBLE, {2}, other.data()));
  H5Gclose(group);
  H5Gclose(entry);
  H5Fclose(file);
}

TEST(Arrays, OfHdf5AreColumns) {
  const TempFolder folder;
  write_hdf5(folder.path("run.h5"));
  const Outcome outcome =
      run_program(folder, {"derive", "run.h5#/entry/data", "d [uV] = voltage", "--kind", "big=text"});
  EXPECT_EQ(outcome.code, 0) << outcome.err;
  EXPECT_EQ(outcome.out,
            "big,image_1,image_2,name,Cell voltage [mV],warm [°C],when,d [µV]\n"
            "1,0.1,0.2,\"a,b\",0.1,21,2031-04-02T10:00:00,100\n"
            "2,0.3,0.4,c,,,2031-04-02T10:30:00,\n"
            "9007199254740993,0.5,0.6,d,0.3333333333333333,22.5,2031-04-02T11:00:00,333.333333333\n");
  EXPECT_NE(outcome.err.find("left out: other (2 values)"), std::string::npos) << outcome.err;
  // The only group with data sets need not be named; a single data set can be.
  EXPECT_EQ(run_program(folder, {"look", "run.h5"}).code, 0);
  const Outcome alone = run_program(folder, {"look", "run.h5#/entry/data/other", "--values"});
  EXPECT_EQ(alone.out, "1\n2\n") << alone.err;
  const Outcome wrong = run_program(folder, {"look", "run.h5#/entry/dat"});
  EXPECT_EQ(wrong.code, 4);
  EXPECT_NE(wrong.err.find("did you mean /entry/data?"), std::string::npos) << wrong.err;
}

TEST(Arrays, OfDamagedFilesAreRefused) {
  const TempFolder folder;
  write_hdf5(folder.path("run.h5"));
  const std::string bytes = folder.read("run.h5");
  for (const std::size_t size : {9U, 100U, 800U, 2000U}) {
    folder.write("cut.h5", bytes.substr(0, size));
    const Outcome outcome = run_program(folder, {"look", "cut.h5"});
    EXPECT_EQ(outcome.code, 4) << size << outcome.err;
  }
}

// What we write as netCDF its own library reads, and we read again as it was.
TEST(Arrays, WrittenAsNetcdfAreReadAgain) {
  const TempFolder folder;
  folder.write("t.csv",
               "when,flow [L/min],name,ok,T [degC]\n2031-04-02T10:00:30,1.5,a,true,20\n,,b,false,\n"
               "2031-04-03,<0.1,,,22.5\n");
  folder.write("study.toml",
               "[sheet.a]\ndata = 't.csv'\nequations = 'r = 1 / (flow - 1.5 [L/min])'\nwrite = ['nc', "
               "'jsonl']\n");
  const Outcome outcome = run_program(folder, {"run"});
  ASSERT_EQ(outcome.code, 0) << outcome.err;
  int file = 0;
  ASSERT_EQ(::nc_open(folder.path("results/tables.nc").c_str(), NC_NOWRITE, &file), NC_NOERR) << outcome.out;
  int flow = 0;
  ASSERT_EQ(::nc_inq_varid(file, "flow", &flow), NC_NOERR);
  std::array<double, 3> values{};
  ASSERT_EQ(::nc_get_var_double(file, flow, values.data()), NC_NOERR);
  EXPECT_EQ(values[0], 1.5);
  EXPECT_EQ(values[1], NC_FILL_DOUBLE);
  std::string unit(16, '\0');
  ASSERT_EQ(::nc_get_att_text(file, flow, "units", unit.data()), NC_NOERR);
  EXPECT_EQ(unit.substr(0, unit.find('\0')), "L/min");
  int why = 0;
  ASSERT_EQ(::nc_inq_varid(file, "flow_null", &why), NC_NOERR);
  std::array<signed char, 3> flags{};
  ASSERT_EQ(::nc_get_var_schar(file, why, flags.data()), NC_NOERR);
  EXPECT_EQ(flags, (std::array<signed char, 3>{0, 1, 2}));
  std::string meanings(64, '\0');
  ASSERT_EQ(::nc_get_att_text(file, why, "flag_meanings", meanings.data()), NC_NOERR);
  EXPECT_EQ(meanings.substr(0, meanings.find('\0')), "known missing below_limit");
  ::nc_close(file);
  const Outcome again =
      run_program(folder, {"derive", "results/tables.nc", "f = flow", "--show", "when,flow,name,T,f"});
  EXPECT_EQ(again.out,
            "when,flow [L/min],name,T [°C],f [L/min]\n2031-04-02T10:00:30,1.5,a,20,1.5\n,,b,,\n"
            "2031-04-03T00:00:00,,,22.5,\n")
      << again.err;
  EXPECT_TRUE(
      folder.read("results/a.jsonl")
          .starts_with("{\"when\":\"2031-04-02T10:00:30\",\"flow [L/min]\":1.5,\"name\":\"a\",\"ok\":true,"
                       "\"T [°C]\":20.0,\"r [s/m^3]\":null}\n{\"when\":null,\"flow [L/min]\":null,"))
      << folder.read("results/a.jsonl");
  const Outcome lines =
      run_program(folder, {"derive", "results/a.jsonl", "f = flow", "--show", "flow,name,ok,T"});
  EXPECT_EQ(lines.out, "flow [L/min],name,ok,T [°C]\n1.5,a,true,20.0\n,b,false,\n,,,22.5\n") << lines.err;
}

TEST(Arrays, ListsOfObjectsAreRows) {
  const TempFolder folder;
  folder.write(
      "t.json",
      "[ {\"t [s]\": 1.5, \"who\": {\"name\": \"a\"}},\n  {\"who\": {\"name\": \"b\"}, \"n\": 3} ]\n");
  const Outcome outcome = run_program(folder, {"derive", "t.json", "d [ms] = t"});
  EXPECT_EQ(outcome.out, "t [s],who.name,n,d [ms]\n1.5,a,,1500\n,b,3,\n") << outcome.err;
  folder.write("t.json", "[ {\"t\": 1}, {\"t\": ");
  EXPECT_EQ(run_program(folder, {"look", "t.json"}).code, 4);
}

std::string gzip_of(const std::string& text) {
  z_stream stream{};
  EXPECT_EQ(deflateInit2(&stream, 6, Z_DEFLATED, 16 + MAX_WBITS, 8, Z_DEFAULT_STRATEGY), Z_OK);
  std::string out(text.size() + 200, '\0');
  stream.next_in = reinterpret_cast<Bytef*>(const_cast<char*>(text.data()));
  stream.avail_in = static_cast<uInt>(text.size());
  stream.next_out = reinterpret_cast<Bytef*>(out.data());
  stream.avail_out = static_cast<uInt>(out.size());
  EXPECT_EQ(deflate(&stream, Z_FINISH), Z_STREAM_END);
  out.resize(stream.total_out);
  deflateEnd(&stream);
  return out;
}

std::string zstd_of(const std::string& text) {
  std::string out(ZSTD_compressBound(text.size()), '\0');
  out.resize(ZSTD_compress(out.data(), out.size(), text.data(), text.size(), 3));
  return out;
}

TEST(Arrays, CompressedFilesAreReadAsTheyAre) {
  std::string text = "a [m],b\n";
  for (int i = 0; i < 60'000; ++i) text += std::to_string(i) + ",x" + std::to_string(i % 7) + "\n";
  const TempFolder folder;
  folder.write("t.csv", text);
  folder.write("t.csv.gz", gzip_of(text.substr(0, 1000)) + gzip_of(text.substr(1000)));
  folder.write("t.csv.zst", zstd_of(text.substr(0, 1000)) + zstd_of(text.substr(1000)));
  const std::vector<std::string> rest = {"c [mm] = 2 * a"};
  const Outcome plain = run_program(folder, {"derive", "t.csv", rest[0]});
  ASSERT_EQ(plain.code, 0) << plain.err;
  for (const char* file : {"t.csv.gz", "t.csv.zst"}) {
    const Outcome outcome = run_program(folder, {"derive", file, rest[0]});
    EXPECT_EQ(outcome.code, 0) << outcome.err;
    EXPECT_TRUE(outcome.out == plain.out) << file;
    const std::string bytes = folder.read(file);
    folder.write("cut", bytes.substr(0, bytes.size() - 20));
    const Outcome cut = run_program(folder, {"derive", "cut", rest[0]});
    EXPECT_EQ(cut.code, 4) << file;
    EXPECT_EQ(cut.out, "");
  }
}

// A long text in another encoding is decoded piece by piece.
TEST(Arrays, LongTextsInOtherEncodingsAreTheSame) {
  std::string text = "größe [m],name\n";
  std::string latin =
      "gr\xF6\xDF"
      "e [m],name\n";
  for (int i = 0; i < 250'000; ++i) {
    text += std::to_string(i) + ",é\n";
    latin += std::to_string(i) + ",\xE9\n";
  }
  const TempFolder folder;
  folder.write("t.csv", text);
  folder.write("l.csv", latin);
  const Outcome plain = run_program(folder, {"derive", "t.csv", "d = 2 * größe"});
  const Outcome other = run_program(folder, {"derive", "l.csv", "d = 2 * größe", "--encoding", "latin-1"});
  ASSERT_EQ(other.code, 0) << other.err;
  EXPECT_TRUE(plain.out == other.out);
}

TEST(Arrays, ARangeOfAWorkbookIsATable) {
  const TempFolder folder;
  folder.write("t.csv", "a [m],b\n1,2\n3,4\n5,6\n");
  folder.write("study.toml",
               "[sheet.long_name]\ndata = 't.csv'\ncolumns.x.header = 'a [m]'\nequations = 'c \"Sum\" [m] "
               "= 2 * x'\nwrite = ['xlsx', 'ods']\n");
  ASSERT_EQ(run_program(folder, {"run"}).code, 0);
  for (const std::string file : {"results/tables.xlsx", "results/tables.ods"}) {
    ASSERT_TRUE(folder.has(file)) << file;
    const Outcome range = run_program(folder, {"look", file + "#long_name!B1:C3", "--values"});
    EXPECT_EQ(range.out, "2\t2\n4\t6\n") << range.err;
    // A workbook of our own needs no name of a sheet, and gives its symbols back.
    const Outcome whole = run_program(folder, {"derive", file, "d = x + c", "--show", "d"});
    EXPECT_EQ(whole.out, "d [m]\n3\n9\n15\n") << whole.err;
    const Outcome outside = run_program(folder, {"look", file + "#long_name!B10:C30"});
    EXPECT_EQ(outside.code, 4) << outside.out;
  }
}

}  // namespace
}  // namespace opensum
