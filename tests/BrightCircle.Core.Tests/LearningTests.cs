using BrightCircle.Core.Content;
using BrightCircle.Core.Learning;
using CsCheck;
using Xunit;

namespace BrightCircle.Core.Tests;

public class LearningTests
{
    internal static PracticeSheet Sheet { get; } = new("Sheet", "", [
        new Question.Single("q1", "Which?", 1, "", [new("a", false, "no"), new("b", true, "yes")]),
        new Question.Multiple("q2", "Which ones?", 3, "", [new("a", true, ""), new("b", true, ""), new("c", false, ""), new("d", true, "")]),
        new Question.FillText("q3", "What?", 1, "", ["fondant", "sugar  fondant"]),
        new Question.FillNumber("q4", "How much?", 1, "", 114, 2, "°C"),
        new Question.Ordering("q5", "In which order?", 4, "", ["one", "two", "three", "four"]),
        new Question.Match("q6", "What belongs together?", 2, "", [new("l", "r"), new("m", "s")]),
        new Question.Open("q7", "In your words?", 2, ""),
    ], 3, 50);

    internal static Form CheckIn { get; } = new("Form", [
        new("q1", FormQuestionKind.YesNo, "Well, {{ first_name }}?", true, [], null),
        new("q2", FormQuestionKind.Long, "Why not?", true, [], new("q1", ShowWhen.Is, "no")),
        new("q3", FormQuestionKind.Number, "How many?", false, [], new("q2", ShowWhen.Answered, "")),
        new("q4", FormQuestionKind.Several, "Which?", false, ["x", "y"], null),
    ], FormRepeat.EveryWeek, "Thanks, {{ first_name }}.");

    static Answer Chosen(params int[] options) => new Answer.Chosen(options);
    static Answer Arranged(params int[] items) => new Answer.Arranged(items);
    static Answer Written(string text) => new Answer.Written(text);

    static Graded Grade(string key, Answer answer) =>
        Grading.Grade(Sheet, new Dictionary<string, Answer> { [key] = answer }).Questions.First(q => q.Key == key);

    [Fact]
    public void Choices_earn_what_is_right_less_what_is_wrong()
    {
        Assert.Equal((AnswerState.Right, 1), (Grade("q1", Chosen(1)).State, Grade("q1", Chosen(1)).Earned));
        Assert.Equal((AnswerState.Wrong, 0), (Grade("q1", Chosen(0)).State, Grade("q1", Chosen(0)).Earned));
        Assert.Equal(["no"], Grade("q1", Chosen(0)).Feedback);
        Assert.Equal(AnswerState.NotAnswered, Grade("q1", Chosen()).State);
        Assert.Equal(3, Grade("q2", Chosen(0, 1, 3)).Earned);
        Assert.Equal(2, Grade("q2", Chosen(0, 1)).Earned);
        // Two right, one wrong: one third of three points.
        Assert.Equal((AnswerState.Partly, 1), (Grade("q2", Chosen(0, 1, 2)).State, Grade("q2", Chosen(0, 1, 2)).Earned));
        Assert.Equal(0, Grade("q2", Chosen(2)).Earned);
        // Choosing all is no way to points: three right, one wrong.
        Assert.Equal(2, Grade("q2", Chosen(0, 1, 2, 3)).Earned);
        Assert.Equal(AnswerState.NotAnswered, Grade("q2", Chosen(9)).State);
    }

    // Unicode Standard Annex 15: NFKC takes the ligature ﬁ and full-width letters to their plain forms.
    [Theory]
    [InlineData("Fondant", "fondant", true)]
    [InlineData("  sugar \u00a0 fondant ", "sugar fondant", true)]
    [InlineData("ﬁne", "FINE", true)]
    [InlineData("ｆondant", "fondant", true)]
    [InlineData("Straße", "STRASSE", true)]
    [InlineData("ΣΊΣΥΦΟΣ", "σίσυφος", true)]
    [InlineData("e\u0301", "é", true)]
    [InlineData("e", "é", false)]
    [InlineData("fondants", "fondant", false)]
    public void Words_are_compared_as_people_take_them(string a, string b, bool same) => Assert.Equal(same, Grading.Same(a, b));

    [Theory]
    [InlineData("114", true)]
    [InlineData("112", true)]
    [InlineData("116.0", true)]
    [InlineData("116,01", false)]
    [InlineData("111.99", false)]
    [InlineData("−114", false)]
    [InlineData("a lot", false)]
    public void Numbers_are_right_within_their_tolerance_on_both_sides(string typed, bool right) =>
        Assert.Equal(right, Grade("q4", Written(typed)).State == AnswerState.Right);

    [Theory]
    [InlineData("1,5", "1.5")]
    [InlineData("1.234,5", "1234.5")]
    [InlineData("1,234.5", "1234.5")]
    [InlineData("1,234,567", "1234567")]
    [InlineData("12 000", "12000")]
    [InlineData("−3", "-3")]
    public void Numbers_are_read_as_people_type_them(string typed, string number) =>
        Assert.Equal(decimal.Parse(number, System.Globalization.CultureInfo.InvariantCulture), Grading.ReadNumber(typed));

    [Fact]
    public void Order_and_pairs_earn_what_stands_at_its_place()
    {
        Assert.Equal(4, Grade("q5", Arranged(0, 1, 2, 3)).Earned);
        Assert.Equal(2, Grade("q5", Arranged(1, 0, 2, 3)).Earned);
        Assert.Equal((AnswerState.Wrong, 0), (Grade("q5", Arranged(1, 2, 3, 0)).State, Grade("q5", Arranged(1, 2, 3, 0)).Earned));
        Assert.Equal(AnswerState.NotAnswered, Grade("q5", Arranged(-1, -1, -1, -1)).State);
        Assert.Equal(1, Grade("q6", Arranged(0, 0)).Earned);
        Assert.Equal(2, Grade("q6", Arranged(0, 1)).Earned);
    }

    [Fact]
    public void Passing_waits_only_for_answers_it_hangs_on()
    {
        var good = new Dictionary<string, Answer> { ["q1"] = Chosen(1), ["q2"] = Chosen(0, 1, 3), ["q5"] = Arranged(0, 1, 2, 3), ["q7"] = Written("mine") };
        // 14 points in all, 7 pass: 8 are earned without the open answer.
        var result = Grading.Grade(Sheet, good);
        Assert.Equal((8, 14, true, 1), (result.Earned, result.Points, result.Passed, result.Waiting));
        good.Remove("q2");
        Assert.Null(Grading.Grade(Sheet, good).Passed);
        Assert.True(Grading.Grade(Sheet, good, new Dictionary<string, Mark> { ["q7"] = new(2, "fine") }).Passed);
        Assert.False(Grading.Grade(Sheet, good, new Dictionary<string, Mark> { ["q7"] = new(1, "") }).Passed);
        Assert.False(Grading.Grade(Sheet, new Dictionary<string, Answer> { ["q7"] = Written("mine") }).Passed);
    }

    static readonly Gen<Dictionary<string, Answer>> AnyAnswers = Gen.Select(Gen.Int[-1, 3].Array[0, 5], Gen.Int[-1, 5].Array[0, 5], Gen.String[0, 8])
        .Select((a, b, t) => new Dictionary<string, Answer>
        {
            ["q1"] = Chosen([.. a.Take(1)]),
            ["q2"] = Chosen(a),
            ["q3"] = Written(t),
            ["q4"] = Written(b.Length.ToString(System.Globalization.CultureInfo.InvariantCulture)),
            ["q5"] = Arranged(b),
            ["q6"] = Arranged(a),
            ["q7"] = Written(t),
        });

    [Fact]
    public void Nobody_earns_more_than_there_is_or_less_than_nothing() => AnyAnswers.Sample(answers =>
    {
        var result = Grading.Grade(Sheet, answers);
        Assert.All(result.Questions, q => Assert.InRange(q.Earned, 0, q.Points));
        Assert.Equal(result.Questions.Sum(q => q.Earned), result.Earned);
        Assert.InRange(result.Percent, 0, 100);
        Assert.Equal(Sheet.Questions.Select(q => q.Key), result.Questions.Select(q => q.Key));
    });

    [Fact]
    public void Mixing_is_a_permutation_the_same_each_time_and_never_the_answer() =>
        Gen.Select(Gen.Int[0, 9], Gen.Long, Gen.String[1, 6]).Sample((count, person, key) =>
    {
        var mixed = Grading.Mixed(count, person, key);
        Assert.Equal(Enumerable.Range(0, count), mixed.Order());
        Assert.Equal(mixed, Grading.Mixed(count, person, key));
        if (count > 1) Assert.NotEqual(Enumerable.Range(0, count), mixed);
    });

    // Worked by hand after Kelley (1939): 10 sheets, groups of 27 % are 3 each.
    [Fact]
    public void A_question_that_tells_the_good_from_the_weak_is_seen()
    {
        var sheet =
            new PracticeSheet("", "", [new Question.FillText("a", "", 1, "", ["x"]), new Question.FillText("b", "", 1, "", ["x"]),
            new Question.FillText("c", "", 1, "", ["x"])], null, 0);
        SheetResult Of(bool a, bool b, bool c) => Grading.Grade(
            sheet, new Dictionary<string, Answer> { ["a"] = Written(a ? "x" : "y"), ["b"] = Written(b ? "x" : "y"), ["c"] = Written(c ? "x" : "y") });
        SheetResult[] tries = [.. Enumerable.Repeat(Of(true, true, true), 4), .. Enumerable.Repeat(Of(true, false, true), 2),
            .. Enumerable.Repeat(Of(false, false, false), 4)];
        var figures = SheetFigures.Of(sheet, tries);
        Assert.Equal((10, 10, 6), (figures[0].Sheets, figures[0].Answered, figures[0].RightFirst));
        Assert.Equal(1.0, figures[0].Discrimination);
        Assert.Null(SheetFigures.Of(sheet, tries[..9])[0].Discrimination);
        // What waits to be read is answered, and neither right nor wrong.
        var open = new PracticeSheet("", "", [new Question.Open("o", "", 2, "")], null, 0);
        var figure =
            SheetFigures.Of(open, [Grading.Grade(open, new Dictionary<string, Answer> { ["o"] = Written("so") }),
            Grading.Grade(open, new Dictionary<string, Answer>())])[0];
        Assert.Equal((2, 1, 1, 0), (figure.Sheets, figure.Answered, figure.Judged, figure.RightFirst));
    }

    [Fact]
    public void A_follow_along_takes_its_steps_rests_and_lead_ins()
    {
        var run = new FollowAlong("", [new("a", "", 30, null, 10, null), new("b", "", null, 8, 15, null), new("c", "", 20, null, 99, null)], 2, 5, 40, 3,
            false);
        // A round: lead-in 5 + 30, rest 10, 8 × 3, rest 15, lead-in 5 + 20. Twice, with 40 between; the last step's own rest never counts.
        Assert.Equal(2 * (5 + 30 + 10 + 24 + 15 + 5 + 20) + 40, run.TotalSeconds);
        var moments = run.Unroll();
        Assert.Equal([MomentKind.LeadIn, MomentKind.Timed, MomentKind.Rest, MomentKind.Counted, MomentKind.Rest, MomentKind.LeadIn, MomentKind.Timed,
            MomentKind.Rest], moments.Take(8).Select(m => m.Kind));
        Assert.Equal(MomentKind.Timed, moments[^1].Kind);
        Assert.Equal(0, (run with { Steps = [] }).TotalSeconds);
    }

    static Dictionary<string, string> Given(params (string Key, string Value)[] answers) => answers.ToDictionary(a => a.Key, a => a.Value);

    [Fact]
    public void Questions_hang_on_answers_and_on_questions_that_are_asked()
    {
        string[] Asked(params (string, string)[] a) => [.. FormRules.Asked(CheckIn, Given(a)).Select(q => q.Key)];
        Assert.Equal(["q1", "q4"], Asked());
        Assert.Equal(["q1", "q4"], Asked(("q1", "yes"), ("q2", "left from before")));
        Assert.Equal(["q1", "q2", "q4"], Asked(("q1", "NO ")));
        Assert.Equal(["q1", "q2", "q3", "q4"], Asked(("q1", "no"), ("q2", "because")));
    }

    [Fact]
    public void What_is_not_asked_needs_no_answer_and_keeps_none()
    {
        Assert.Equal(["q1"], FormRules.Wrong(CheckIn, Given()).Keys);
        Assert.Empty(FormRules.Wrong(CheckIn, Given(("q1", "yes"))));
        Assert.Equal(["q2"], FormRules.Wrong(CheckIn, Given(("q1", "no"))).Keys);
        Assert.Equal(["q3"], FormRules.Wrong(CheckIn, Given(("q1", "no"), ("q2", "x"), ("q3", "many"))).Keys);
        Assert.Equal(["q4"], FormRules.Wrong(CheckIn, Given(("q1", "yes"), ("q4", "x\nz"))).Keys);
        Assert.Equal(["q1", "q4"], FormRules.Kept(CheckIn, Given(("q1", "yes"), ("q2", "left"), ("q4", "x\ny"))).Keys);
    }

    [Theory]
    [InlineData("Thanks, {{ first_name }}.", "Ola", "Thanks, Ola.")]
    [InlineData("Thanks, {{ first_name }}.", "", "Thanks.")]
    [InlineData("You said {{ answer.q4 }}.", "Ola", "You said x, y.")]
    [InlineData("{{ unknown }}", "Ola", "{{ unknown }}")]
    public void Names_and_answers_stand_in_later_words(string text, string name, string said) =>
        Assert.Equal(said, FormRules.Worded(text, name, Given(("q4", "x\ny"))));

    // ISO 8601: 2026 has 53 weeks, and its last runs into the new year.
    [Fact]
    public void A_weekly_form_is_answered_by_ISO_week()
    {
        Assert.Equal("2026-W53", FormRules.Turn(CheckIn, new(2026, 12, 31)));
        Assert.Equal("2026-W53", FormRules.Turn(CheckIn, new(2027, 1, 1)));
        Assert.Equal("2027-W01", FormRules.Turn(CheckIn, new(2027, 1, 4)));
        Assert.Equal("", FormRules.Turn(CheckIn with { Repeat = FormRepeat.Once }, new(2027, 1, 4)));
    }

    [Fact]
    public void A_lesson_is_done_by_what_it_names()
    {
        var video = new Block.Video(new("", null, new FileId(1), null, "", "")) { Id = new(1) };
        var elsewhere = new Block.Video(Recording.Empty with { Url = "https://a.example" }) { Id = new(2) };
        var practice = new Block.Practice(Sheet) { Id = new(3) };
        bool By(DoneWhen when, Block[] blocks, params long[] done) =>
            DoneRules.ByItself(when, blocks, b => done.Contains(b.Value), b => done.Contains(b.Value));
        Assert.True(By(DoneWhen.Opened, []));
        Assert.False(By(DoneWhen.Marked, [video], 1));
        Assert.True(By(DoneWhen.Watched, [video, elsewhere], 1));
        Assert.False(By(DoneWhen.Watched, [elsewhere], 2));
        Assert.True(DoneRules.MarkedByHand(DoneWhen.Watched, [elsewhere]));
        Assert.False(DoneRules.MarkedByHand(DoneWhen.Watched, [video]));
        Assert.True(By(DoneWhen.SheetPassed, [practice, video], 3));
        Assert.False(By(DoneWhen.SheetPassed, [practice, practice with { Id = new(4) }], 3));
    }

    [Fact]
    public void Progress_says_how_many_of_how_many()
    {
        Lesson[] lessons = [.. Enumerable.Range(1, 5).Select(i => new Lesson { Id = new(i) })];
        var progress = Progress.Over(lessons, l => l.Id.Value != 5, id => id.Value is 1 or 2 or 5);
        Assert.Equal((2, 4, 50, false), (progress.Done, progress.Of, progress.Percent, progress.IsComplete));
        Assert.True(Progress.Over(lessons, _ => true, _ => true).IsComplete);
        Assert.False(new Progress(0, 0).IsComplete);
        Assert.Equal(99, new Progress(299, 300).Percent);
    }
}
