// Writing whole or not at all.
#include "files/output.h"

#include <fcntl.h>
#include <gtest/gtest.h>
#include <unistd.h>

#include <fstream>

#include "files/sha256.h"
#include "files/temp_folder.h"

namespace opensum {
namespace {

TEST(OutputFiles, AppearTogetherOrNotAtAll) {
  const TempFolder folder;
  const Inputs inputs;
  Diagnostics diagnostics;
  {
    OutputFiles files(inputs, true);
    EXPECT_TRUE(files.write(folder.path("out/deep/a.csv"), "a", diagnostics));
    EXPECT_TRUE(files.write(folder.path("out/b.csv"), "b", diagnostics));
    EXPECT_FALSE(folder.has("out/deep/a.csv"));
  }
  EXPECT_TRUE(folder.names().empty()) << "nothing stays of what was not committed";
  {
    OutputFiles files(inputs, true);
    EXPECT_TRUE(files.write(folder.path("out/a.csv"), "one", diagnostics));
    EXPECT_TRUE(files.commit(diagnostics));
  }
  EXPECT_EQ(folder.read("out/a.csv"), "one");
  EXPECT_EQ(folder.names().size(), 2U);
}

// A long file is memory-mapped: a change while a run goes on would mix two states of it.
TEST(Inputs, ThatChangeAreReported) {
  const TempFolder folder;
  const std::string content(std::size_t{3} << 20U, 'x');
  folder.write("long.csv", content);
  folder.write("short.csv", "x");
  Inputs inputs;
  Diagnostics diagnostics;
  const auto file = inputs.read(folder.path("long.csv"), {}, diagnostics, Code::cannot_open, true);
  ASSERT_TRUE(file && inputs.read(folder.path("short.csv"), {}, diagnostics, Code::cannot_open, true));
  EXPECT_TRUE(file->text == content);
  file->forget(0, file->text.size());
  EXPECT_TRUE(file->text == content) << "what was forgotten can be read again";
  inputs.start_digests();
  EXPECT_EQ(inputs.digest(0), sha256(content));
  inputs.report_changed(diagnostics);
  EXPECT_TRUE(diagnostics.all().empty());
  folder.write("short.csv", "was held");
  std::ofstream(folder.path("long.csv"), std::ios::app) << "more";
  inputs.report_changed(diagnostics);
  ASSERT_EQ(diagnostics.all().size(), 1U);
  EXPECT_EQ(render(diagnostics), "opensum: error: " + folder.path("long.csv") +
                                     " was changed while it was read\n"
                                     "      hint: nothing was written; run again once it is complete\n");
}

TEST(OutputFiles, NeverReplaceWhatWasRead) {
  const TempFolder folder;
  folder.write("data.csv", "measured");
  std::filesystem::create_symlink("data.csv", folder.path("link.csv"));
  std::filesystem::create_hard_link(folder.path("data.csv"), folder.path("hard.csv"));
  Inputs inputs;
  Diagnostics diagnostics;
  ASSERT_TRUE(inputs.read(folder.path("data.csv"), {}, diagnostics));
  for (const char* name : {"data.csv", "link.csv", "hard.csv", "./data.csv"}) {
    OutputFiles files(inputs, true);
    Diagnostics refused;
    EXPECT_FALSE(files.write(folder.path(name), "x", refused)) << name;
    EXPECT_EQ(refused.all().at(0).code, Code::would_overwrite_input) << name;
    EXPECT_EQ(refused.exit_code(), 2);
  }
  EXPECT_EQ(folder.read("data.csv"), "measured");
}

TEST(OutputFiles, AskBeforeReplacing) {
  const TempFolder folder;
  folder.write("old.csv", "old");
  const Inputs inputs;
  Diagnostics diagnostics;
  OutputFiles files(inputs, false);
  EXPECT_FALSE(files.write(folder.path("old.csv"), "new", diagnostics));
  EXPECT_EQ(diagnostics.all().at(0).code, Code::already_exists);
  EXPECT_EQ(folder.read("old.csv"), "old");
}

TEST(OutputFiles, ReportWhereNothingCanBeWritten) {
  const TempFolder folder;
  folder.write("file", "");
  folder.write("sub/x", "");
  const Inputs inputs;
  for (const char* path : {"file/below.csv", "sub"}) {
    Diagnostics diagnostics;
    OutputFiles files(inputs, true);
    EXPECT_FALSE(files.write(folder.path(path), "x", diagnostics)) << path;
    EXPECT_EQ(diagnostics.all().at(0).code, Code::cannot_write);
  }
}

// A device that is always full.
TEST(OutputFiles, ReportAFullDisk) {
  const int full = ::open("/dev/full", O_WRONLY);
  ASSERT_GE(full, 0);
  EXPECT_EQ(write_all(full, "some text"), ENOSPC);
  ::close(full);
}

TEST(Sha256, IsTheStandardOne) {
  // FIPS 180-2, appendix B.1.
  EXPECT_EQ(sha256("abc"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad");
}

}  // namespace
}  // namespace opensum
