// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/core_tests.h"

#include "core/plan/track_plan_parts.h"

namespace {

double level(const Samples& samples, std::size_t from, std::size_t to) {
  double sum = 0.0;
  for (std::size_t i = from; i < to; ++i) sum += static_cast<double>(samples[i]) * samples[i];
  return 10.0 * std::log10(sum / static_cast<double>(to - from));
}

TrackId only(const Session& session) {
  return session.tracks.front()->id;
}

}  // namespace

TEST_CASE("A composite of whole untouched lanes is bit for bit what is in the file") {
  for (const SampleFormat format : {SampleFormat::Pcm16, SampleFormat::Pcm24, SampleFormat::Float32}) {
    const TemporaryFolder temporary;
    Samples signal = noise(30000, 1);
    if (format == SampleFormat::Pcm16)
      for (float& sample : signal) sample = std::trunc(sample * 32768.0F) / 32768.0F;
    const SessionFolder folder = sessionWithLanes(temporary / "s", {noise(20000, 9), signal}, format);
    CHECK(renderTrack(folder, folder.session(), "Viola").front() == signal);
    RenderRequest request;
    request.track = only(folder.session());
    renderToFile(folder.disk(), folder.session(), request, temporary / "out.wav");
    CHECK(readWave(temporary / "out.wav").front() == signal);
    CHECK(probeAudioFile(temporary / "out.wav").format == format);
  }
}

TEST_CASE("Level holds through a matched join within 0.5 dB, whatever the two takes have in common") {
  for (const double rho : {0.0, 0.25, 0.5, 0.75, 0.95, 1.0}) {
    const TemporaryFolder temporary;
    const Samples a = noise(200000, 1);
    const Samples other = noise(200000, 2);
    Samples b(a.size());
    for (std::size_t i = 0; i < a.size(); ++i)
      b[i] = static_cast<float>(rho) * a[i] + static_cast<float>(std::sqrt(1.0 - rho * rho)) * other[i];
    const SessionFolder folder = sessionWithLanes(temporary / "s", {a, b});
    Session session = pick(folder.session(), only(folder.session()), {{0}, {100000}}, LaneNumber{1});
    session = setJoin(session, only(session), {100000}, {{40000}, {40000}, Curve::Matched});
    const Samples out = renderTrack(folder, session, "Viola").front();
    for (std::size_t at = 60000; at < 140000; at += 8000) {
      INFO("correlation " << rho << " at " << at);
      CHECK(std::abs(level(out, at, at + 8000) - level(a, at, at + 8000)) < 0.5);
    }
  }
}

TEST_CASE("Every microphone of a set is cut at the same frame with the same gains") {
  const TemporaryFolder temporary;
  Session session;
  SessionFolder folder = SessionFolder::create(temporary / "s", session);
  session = addTrack(session, "Drum", microphonesFor(3));
  const TrackId id = only(session);
  std::vector<std::vector<Samples>> takes;
  for (unsigned take = 0; take < 2; ++take) {
    takes.push_back({noise(20000, take * 3 + 1), noise(20000, take * 3 + 2), noise(20000, take * 3 + 3)});
    const std::string name = newAudio(folder, "drum");
    writeWave((folder.path() / name), takes.back(), 48000, SampleFormat::Float32);
    session = addFileAsLane(session, id, {name, 3, {20000}}, {}, "");
  }
  session = pick(session, id, {{5000}, {9000}}, LaneNumber{1});
  session = setJoin(session, id, {9000}, {{100}, {100}, Curve::EqualGain});
  const auto out = renderTrack(folder, session, "Drum");
  REQUIRE(out.size() == 3);
  for (std::size_t m = 0; m < 3; ++m) {
    CHECK(out[m][4000] == takes[1][m][4000]);
    CHECK(out[m][7000] == takes[0][m][7000]);
    CHECK(out[m][9000] == Approx(takes[0][m][9000] * 0.4975 + takes[1][m][9000] * 0.5025).margin(1e-6));
  }
}

TEST_CASE("A track's meter shows the loudest sample it adds to its louder side, and forgets none") {
  const TemporaryFolder temporary;
  Samples signal(5000, 0.1F);
  signal[3000] = -0.8F;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {signal});
  Session session = addTrack(folder.session(), "Empty", microphonesFor(1));
  session = setTrackMix(session, only(session), {-6.0}, {0.5});
  // Equal-power pan law, common practice: halfway to the right is three quarters of a quarter turn.
  const auto louder = static_cast<float>(std::sin(0.75 * std::numbers::pi / 2.0) * 0.501187);
  FileCorrelationMeter meter(folder.disk());
  meter.setFiles(*session.pool);
  const auto plan = Compiler(meter).compile(session, {});
  FileSampleSource source(folder.disk(), *session.pool);
  Renderer renderer(1024);
  Samples left(1000);
  Samples right(1000);
  std::vector<float> peaks(2, 0.0F);
  const auto render = [&](std::int64_t at) {
    CHECK(renderer.renderMix(*plan, {at}, 1000, source, left.data(), right.data(), peaks.data()));
  };
  render(0);
  CHECK(peaks[0] == Approx(0.1F * louder).epsilon(1e-4));
  CHECK(peaks[1] == 0.0F);
  render(2500);
  CHECK(peaks[0] == Approx(0.8F * louder).epsilon(1e-4));
  CHECK(*std::max_element(right.begin(), right.end(), [](float a, float b) {
    return std::abs(a) < std::abs(b);
  }) == Approx(-0.8F * louder).epsilon(1e-4));
  render(0);
  CHECK(peaks[0] == Approx(0.8F * louder).epsilon(1e-4));
  CHECK(peaks[1] == 0.0F);
  // Softer while it is heard for comparison, as soft as may be.
  const Samples whole = right;
  for (const float level : {0.25F, 0.001F, 0.0F}) {
    PlaybackPlan soft = *plan;
    soft.levels = {level, 1.0F};
    CHECK(renderer.renderMix(soft, {0}, 1000, source, left.data(), right.data(), nullptr));
    for (std::size_t i = 0; i < right.size(); ++i) REQUIRE(right[i] == Approx(level * whole[i]).margin(1e-7));
  }
}

TEST_CASE("A flattened composite nulls against the live one and can be undone") {
  const TemporaryFolder temporary;
  SessionFolder folder = sessionWithLanes(temporary / "s", {noise(48000, 1), noise(48000, 2)});
  const TrackId id = only(folder.session());
  folder.commit("Pick", pick(folder.session(), id, {{10000}, {20000}}, LaneNumber{1}));
  const Samples live = renderTrack(folder, folder.session(), "Viola").front();
  const Session before = folder.session();
  const FlattenedFile flat = renderComposite(folder.disk(), folder.session(), id);
  CHECK(flat.difference == 0.0);
  folder.commit("Flatten", takePlaceOfComposite(folder.session(), id, flat.file, flat.origin));
  CHECK(folder.session().tracks.front()->lanes.size() == 3);
  CHECK(renderTrack(folder, folder.session(), "Viola").front() == live);
  CHECK(resolve(*folder.session().tracks.front(), folder.session().rate).joins.empty());
  folder.editHistory().undo();
  CHECK((butForPool(folder.session()) == butForPool(before)));
}

TEST_CASE("What is flattened sounds as before at its edges too, whatever lies there") {
  // What is heard over all of it, to a step of 24 bits.
  const auto requireAsBefore = [](const SessionFolder& folder, const Session& before, const Session& after) {
    const Span everywhere{{}, {48000}};
    const Samples was = renderTrack(folder, before, "Viola", everywhere).front();
    const Samples heard = renderTrack(folder, after, "Viola", everywhere).front();
    REQUIRE(heard.size() == was.size());
    float most = 0.0F;
    for (std::size_t i = 0; i < was.size(); ++i) most = std::max(most, std::abs(heard[i] - was[i]));
    CHECK(most <= 1.0F / 1048576.0F);
  };
  int keptJoins = 0;
  for (unsigned seed = 0; seed < 60; ++seed) {
    std::mt19937 random(seed);
    const auto upTo = [&random](int most) { return std::uniform_int_distribution(0, most)(random); };
    const SampleFormat format = seed % 2 ? SampleFormat::Pcm24 : SampleFormat::Float32;
    const TemporaryFolder temporary;
    SessionFolder folder = sessionWithLanes(
        temporary / "s", {noise(48000, 1, 0.2F), noise(48000, 2, 0.2F), noise(48000, 3, 0.2F)}, format);
    const TrackId id = only(folder.session());
    Session session = folder.session();
    std::vector<Frames> places;
    for (int i = 3 + upTo(5); i > 0; --i) {
      // Some pieces are too short for both of their joins.
      const Frames at{5000 + 100 * upTo(300)};
      const Frames end = at + Frames{upTo(2) ? 1000 + upTo(9000) : 30 + upTo(300)};
      session = upTo(9) ? pick(session, id, {at, end}, LaneNumber{1 + upTo(2)})
                        : pick(session, id, {at, end}, std::nullopt);
      places.push_back(at);
      places.push_back(end);
      if (session.track(id)->composite.picks.size() && upTo(3) == 0) try {
          session =
              changePiece(session, id, at, {.gain = Decibels{-1.0 * upTo(9)}, .slip = Frames{upTo(40) - 20}});
        } catch (const Error&) {
          continue;  // silence has neither
        }
    }
    if (seed % 3 == 0) session = pick(session, id, {{}, {1000 + upTo(3000)}}, std::nullopt);
    if (seed % 4 == 0) session = changeLane(session, id, LaneNumber{1}, {.muted = true});
    const ResolvedComposite before = resolve(*session.track(id), session.rate);
    const auto place = [&] {
      const Frames at = places[static_cast<std::size_t>(upTo(static_cast<int>(places.size()) - 1))];
      return at + Frames{upTo(2) ? 0 : upTo(400) - 200};
    };
    Span span{place(), place()};
    if (span.end < span.start) std::swap(span.start, span.end);
    if (span.empty()) span.end = span.start + Frames{500};
    INFO("seed " << seed << ", " << span.start.count << " to " << span.end.count);
    const FlattenedFile flat = renderComposite(folder.disk(), session, id, {}, span);
    CHECK(flat.span.start <= span.start);
    CHECK(flat.span.end >= span.end);
    const Session placed = takePlaceInComposite(session, id, flat.file, flat.origin, flat.span);
    checkInvariants(placed);
    requireAsBefore(folder, session, placed);
    // The whole likewise, also where a person wants silence at its ends, or a take there is muted.
    const FlattenedFile all = renderComposite(folder.disk(), session, id);
    const Session whole = takePlaceOfComposite(session, id, all.file, all.origin);
    checkInvariants(whole);
    requireAsBefore(folder, session, whole);
    // The joins around it, and at its edges where these stay, are what they were and nobody's doing.
    const ResolvedComposite after = resolve(*placed.track(id), session.rate);
    CHECK(after.pieceAt(flat.span.start)->span == flat.span);
    for (const Join& join : before.joins) {
      const bool outside = join.at < flat.span.start || join.at > flat.span.end;
      const bool edge = join.at == flat.span.start || join.at == flat.span.end;
      if (!outside && !edge) continue;
      const Join* const now = after.joinAt(join.at);
      REQUIRE(now);
      CHECK(now->shape == join.shape);
      CHECK_FALSE(now->set);
      keptJoins += edge;
    }
  }
  CHECK(keptJoins > 20);
}

TEST_CASE("A render that would leave something out is refused and leaves no file") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {noise(48000, 1)});
  const fs::path audio = audioPath(folder, folder.session().pool->front());
  fs::resize_file(audio, fs::file_size(audio) / 2);
  RenderRequest request;
  CHECK_THROWS_AS(renderToFile(folder.disk(), folder.session(), request, temporary / "out.wav"), Error);
  CHECK_FALSE(fs::exists(temporary / "out.wav"));
  fs::remove(audio);
  CHECK_THROWS_AS(renderToFile(folder.disk(), folder.session(), request, temporary / "out.wav"), Error);
  CHECK_THROWS_AS(renderToFile(folder.disk(), Session{}, request, temporary / "out.wav"), Error);
  // One that loses its end while it is rendered.
  const SessionFolder other = sessionWithLanes(temporary / "other", {noise(300000, 1)});
  const fs::path losing = audioPath(other, other.session().pool->front());
  const auto whole = fs::file_size(losing);
  CHECK_THROWS_WITH(renderToFile(other.disk(), other.session(), request, temporary / "out.wav",
                                 [&](double) {
                                   fs::resize_file(losing, whole / 2);
                                   return true;
                                 }),
                    Catch::Contains(losing.filename().string()) && Catch::Contains("could not be read"));
  CHECK_FALSE(fs::exists(temporary / "out.wav"));
}

TEST_CASE("Of a track whose file is another now, the composite is compiled anew, and of no other") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {noise(9000, 1), noise(9000, 2)});
  Session session = addTrack(folder.session(), "Drum", microphonesFor(1));
  const TrackId viola = session.tracks[0]->id;
  const TrackId drum = session.tracks[1]->id;
  for (const PoolFile& file : std::vector<PoolFile>(*session.pool))
    session = addFileAsLane(session, drum, file, {}, "take");
  FileCorrelationMeter meter(folder.disk());
  meter.setFiles(*session.pool);
  Compiler compiler(meter);
  Listening how;
  how.inHand = drum;
  how.within = Span{{1000}, {2000}};
  const auto first = compiler.compile(session, how);
  REQUIRE(first->tracks.size() == 2);
  // What can be chosen of the track in hand: the composite, and its takes as if they were picked.
  const auto chosen = [](const PlaybackPlan& plan, std::optional<LaneNumber> lane) {
    const auto choice = plan.choiceOf(plan.tracks[1]->track, lane);
    REQUIRE(choice);
    return plan.choices[static_cast<std::size_t>(*choice)].plan;
  };
  const LaneNumber take{1};
  const auto again = compiler.compile(session, how);
  CHECK(again->tracks == first->tracks);
  CHECK(chosen(*again, take) == chosen(*first, take));
  compiler.forget(drum);
  const auto anew = compiler.compile(session, how);
  CHECK(anew->tracks[0] == first->tracks[0]);
  CHECK(anew->tracks[1] != first->tracks[1]);
  CHECK(chosen(*anew, std::nullopt) == anew->tracks[1]);
  CHECK(chosen(*anew, take) != chosen(*first, take));
  compiler.forget(viola);
  const auto other = compiler.compile(session, how);
  CHECK(other->tracks[0] != anew->tracks[0]);
  CHECK(other->tracks[1] == anew->tracks[1]);
  CHECK(chosen(*other, take) == chosen(*anew, take));
  // Lanes as they are, not as if they were picked: the same again, until the track is silent.
  how.within.reset();
  const auto plain = compiler.compile(session, how);
  CHECK(chosen(*compiler.compile(session, how), take) == chosen(*plain, take));
  session = setTrackSwitch(session, drum, TrackSwitch::Mute, true);
  CHECK(chosen(*compiler.compile(session, how), take) != chosen(*plain, take));
  // What is heard of another track is no choice of the one in hand.
  how.heard = {{viola, {LaneNumber{2}}}};
  CHECK(compiler.compile(session, how)->heard == 0);
  how.heard = {{drum, {LaneNumber{2}}}};
  CHECK(compiler.compile(session, how)->heard == 2);
}

TEST_CASE("A stretch is not flattened where the whole's level or fades would be heard twice") {
  const TemporaryFolder temporary;
  const SessionFolder folder = sessionWithLanes(temporary / "s", {noise(48000, 1)});
  const TrackId id = only(folder.session());
  for (const auto set : {+[](Composite& composite) { composite.fadeIn.length = Frames{1}; },
                         +[](Composite& composite) { composite.fadeOut.length = Frames{1}; },
                         +[](Composite& composite) {
                           composite.level = {{Frames{0}, Decibels{-1.0}}};
                         }}) {
    Session other = folder.session();
    set(other.tracks.front().edit().composite);
    CHECK_THROWS_WITH(renderComposite(folder.disk(), other, id, {}, Span{{9000}, {21000}}),
                      Catch::Contains("the whole of it"));
  }
}
