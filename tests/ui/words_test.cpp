// SPDX-License-Identifier: GPL-3.0-or-later
#include <QAction>
#include <QCoreApplication>
#include <QFile>
#include <QRegularExpression>
#include <QTranslator>
#include <cstring>
#include "ui/ui_tests.h"

#include "app/look/language.h"
#include "app/look/spoken.h"
#include "app/pseudo_language.h"
#include "impatient_rig.h"

namespace {

/// A language with another order of words, and a plural that is not English.
class Invented : public QTranslator {
 public:
  [[nodiscard]] bool isEmpty() const override { return false; }
  [[nodiscard]] QString translate(const char* context, const char* source, const char*,
                                  int n) const override {
    if (std::strcmp(context, "Core") != 0) return {};
    if (std::strcmp(source, "Lane %2 of \"%1\" is empty.") == 0) return "Leer: %2 (%1)";
    if (std::strcmp(source, "%n take(s) of %1") == 0) return n == 2 ? "%1: beide" : "%1: %n";
    if (std::strcmp(source, "bar %1") == 0) return "Takt %1";
    if (std::strcmp(source, "%1 and %2") == 0) return "%1 und %2";
    return {};
  }
};

/// As long as it lives, that is spoken; and numbers are written as there.
class Speaking {
 public:
  Speaking(QTranslator& language, const QLocale& locale) : language_(language) {
    QLocale::setDefault(locale);
    QCoreApplication::installTranslator(&language_);
  }
  ~Speaking() {
    QCoreApplication::removeTranslator(&language_);
    QLocale::setDefault(QLocale::c());
  }
  Speaking(const Speaking&) = delete;
  Speaking& operator=(const Speaking&) = delete;

 private:
  QTranslator& language_;
};

}  // namespace

TEST_CASE("What the core says is said whole in another language, in its order, its plural and its numbers") {
  Invented invented;
  const Speaking speaking(invented, QLocale(QLocale::German));
  CHECK(spoken(Sentence("Lane %2 of \"%1\" is empty.", "Viola", 12345)) == "Leer: 12345 (Viola)");
  CHECK(spoken(Sentence("%n take(s) of %1", "Drum", Count{2})) == "Drum: beide");
  CHECK(spoken(Sentence("%n take(s) of %1", "Drum", Count{5})) == "Drum: 5");
  // A part in it is said in that language too, and where a sentence is not known, it is English.
  CHECK(spoken(Sentence("from %1 on, %2", Sentence("bar %1", 3), Decimal{1.5})) == "from Takt 3 on, 1,5");
  CHECK(spoken(Sentence::listed({Sentence("bar %1", 1), Sentence("bar %1", 2), Sentence("bar %1", 4)})) ==
        "Takt 1, Takt 2 und Takt 4");
  CHECK(spoken(Sentence("%1", Decimal{20.0, 1})) == "20");
  CHECK(spoken(Sentence("%1", Decimal{1000.25, 1})) == "1000,3");
  CHECK(spoken(Error("Lane %2 of \"%1\" is empty.", "%2", 1)) == "Leer: 1 (%2)");
  CHECK(spoken(std::vector<Sentence>{Sentence("bar %1", 1), Sentence("bar %1", 2)}) == "Takt 1 Takt 2");
}

TEST_CASE("Without another language, the window says what the tool says") {
  EnglishPlurals english;
  const Speaking speaking(english, QLocale::c());
  const Sentence::List names{Sentence::verbatim("Viola"), Sentence::verbatim("Drum")};
  for (const Sentence& sentence :
       {Sentence(), Sentence("A track needs a name."), Sentence("%n pass(es)", Count{1}),
        Sentence("%n pass(es)", Count{2}), Sentence("%n were|one was", Count{1}),
        Sentence("%1 %", Decimal{2.5}), Sentence("%1", Decimal{1000.0, 1}),
        Sentence("Records %1.", Sentence::listed(names)), Sentence::verbatim("%1 of %n"),
        Sentence("\"%1\" is not %2.", "%2 %n", 7)}) {
    INFO(sentence.english());
    CHECK(spoken(sentence).toStdString() == sentence.english());
  }
  CHECK(spoken(std::runtime_error("as %1 it is")) == "as %1 it is");
  CHECK(std::string(refusal("Nicht so %1.").what()) == "Nicht so %1.");
}

TEST_CASE("Names and positions are not translated, but every sentence around them is") {
  PseudoLanguage pseudo;
  const Speaking speaking(pseudo, QLocale::c());
  CHECK(spoken(Sentence::verbatim("Viola")) == "Viola");
  CHECK(spoken(Sentence("A track needs a name.")) == PseudoLanguage::of("A track needs a name."));
  CHECK(spoken(Sentence("bar %1", 3)).contains("bär 3"));
  CHECK(spoken(Sentence("%n take(s)", Count{1})).startsWith("1 täké "));
}

namespace {

void run(const QString& command) {
  const ToolResult result = shell(command.toStdString());
  INFO(result.err << result.out);
  REQUIRE(result.status == 0);
}

QString content(const QString& name) {
  QFile file(name);
  REQUIRE(file.open(QFile::ReadOnly));
  return QString::fromUtf8(file.readAll());
}

/// What a translator who puts everything into these marks would have made of it.
QString marked(QString ts) {
  static const QRegularExpression single(
      "<source>([^<]*)</source>(\\s*)<translation type=\"unfinished\"></translation>");
  ts.replace(single, "<source>\\1</source>\\2<translation>\u00ab\\1\u00bb</translation>");
  static const QRegularExpression plural(
      "<source>([^<]*)</source>(\\s*)<translation type=\"unfinished\">\\s*<numerusform></numerusform>\\s*"
      "<numerusform></numerusform>\\s*</translation>");
  ts.replace(plural,
             "<source>\\1</source>\\2<translation><numerusform>\u00abone\u00bb</numerusform>"
             "<numerusform>\u00ab%n\u00bb</numerusform></translation>");
  return ts;
}

}  // namespace

TEST_CASE("Whatever counts says one in the singular and all else in the plural, wherever one is") {
  const TemporaryFolder temporary;
  const QString folder = QString::fromStdString(temporary.path().string());
  run(YEWDRIFT_SCRIPTS "/update_translations.sh eo " + folder);
  static const QRegularExpression sentence("<name>([^<]*)</name>|<source>([^<]*)</source>");
  static const QRegularExpression unfit(
      R"(%n|\(e?s\)|\||\b1 (\w+ )?(are|were|have)\b|\bOne \w+ (are|were|have)\b)");
  const QString ts = content(folder + "/yewdrift_eo.ts");
  for (const QLocale& locale : {QLocale::c(), QLocale(QLocale::German), QLocale(QLocale::Polish)}) {
    const Language language = speak(locale);
    QString context;
    int counting = 0;
    for (auto found = sentence.globalMatch(ts); found.hasNext();) {
      const QRegularExpressionMatch match = found.next();
      if (!match.captured(1).isEmpty()) context = match.captured(1);
      QString source = match.captured(2);
      source.replace("&quot;", "\"")
          .replace("&apos;", "'")
          .replace("&lt;", "<")
          .replace("&gt;", ">")
          .replace("&amp;", "&");
      INFO(source.toStdString());
      if (!source.contains("%n")) {
        CHECK_FALSE(source.contains(QRegularExpression(R"(\(e?s\)|[a-z.]\|[A-Z])")));
        continue;
      }
      ++counting;
      // A unit, or said of two and more only.
      static const QRegularExpression asItIs(R"(%n (s|stretches)\b|^%n takes are (not )?rated)");
      if (source.contains(asItIs)) continue;
      const auto said = [&](int n) {
        return QCoreApplication::translate(context.toUtf8(), source.toUtf8(), nullptr, n);
      };
      CHECK(said(1) != said(2).replace('2', '1'));
      for (const int n : {0, 1, 2, 21}) CHECK_FALSE(said(n).contains(unfit));
    }
    CHECK(counting > 60);
  }
}

TEST_CASE("A translation made with the project's own script is taken up, whole") {
  const TemporaryFolder temporary;
  const QString folder = QString::fromStdString((temporary / "yewdrift/translations").string());
  run(YEWDRIFT_SCRIPTS "/update_translations.sh eo " + folder);
  const QString ts = folder + "/yewdrift_eo.ts";
  const QString done = marked(content(ts));
  CHECK_FALSE(done.contains("unfinished"));
  QFile file(ts);
  REQUIRE(file.open(QFile::WriteOnly));
  file.write(done.toUtf8());
  file.close();
  run("/usr/lib/qt6/bin/lrelease -silent " + ts + " -qm " + folder + "/yewdrift_eo.qm");

  const QByteArray before = qgetenv("XDG_DATA_DIRS");
  qputenv("XDG_DATA_DIRS", QByteArray::fromStdString(temporary.path().string()));
  const Language language = speak(QLocale("eo"));
  qputenv("XDG_DATA_DIRS", before);
  CHECK(spoken(Sentence("A track needs a name.")) == "\u00abA track needs a name.\u00bb");
  CHECK(spoken(Sentence("Lane %1 is empty.", 7)) == "\u00abLane 7 is empty.\u00bb");
  CHECK(spoken(Sentence("\"%1\" has nothing.", "a")) == "\"a\" has nothing.");
  CHECK(spoken(Sentence("Record %n passes|Record one pass", Count{1})) == "\u00abone\u00bb");
  CHECK(spoken(Sentence("Record %n passes|Record one pass", Count{3})) == "\u00ab3\u00bb");
  ImpatientRig rig(makeWindowSession(temporary));
  int said = 0;
  for (const QAction* action : rig.window->findChildren<QAction*>()) {
    if (action->text().isEmpty()) continue;
    INFO(action->text().toStdString());
    CHECK(action->text().contains(QChar(0xab)));
    ++said;
  }
  CHECK(said > 60);
}
