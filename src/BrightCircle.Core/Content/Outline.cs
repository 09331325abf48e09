namespace BrightCircle.Core.Content;

/// <summary>A module with its lessons; without a module, the lessons that stand before the first one.</summary>
public sealed record OutlinePart(Module? Module, IReadOnlyList<Lesson> Lessons);

/// <summary>Where a lesson is to stand: in which module (null: before the first one), at which place, counted from 0.</summary>
public readonly record struct LessonPlace(ModuleId? Module, int At);

/// <summary>
/// The order of a piece's modules and lessons: one fact, used in the outline, for next and previous, and everywhere else.
/// It is never changed; moving gives another one.
/// </summary>
public sealed class Outline
{
    public static Outline Empty { get; } = new([]);

    Outline(IReadOnlyList<OutlinePart> parts)
    {
        Parts = parts;
        Lessons = [.. parts.SelectMany(p => p.Lessons)];
        Minutes = Lessons.Any(l => l.Minutes is not null) ? Lessons.Sum(l => l.Minutes ?? 0) : null;
    }

    public IReadOnlyList<OutlinePart> Parts { get; }
    /// <summary>All lessons in order.</summary>
    public IReadOnlyList<Lesson> Lessons { get; }
    /// <summary>The lessons' minutes together; null where none says how long it takes.</summary>
    public int? Minutes { get; }
    public IEnumerable<Module> Modules => Parts.Where(p => p.Module is not null).Select(p => p.Module!);
    public bool IsCourse => Lessons.Count > 1 || Parts.Any(p => p.Module is not null);

    /// <summary>Puts modules and lessons in their order. A lesson whose module isn't there stands before the first one.</summary>
    public static Outline Of(IEnumerable<Module> modules, IEnumerable<Lesson> lessons)
    {
        var ordered = modules.OrderBy(m => m.Position).ThenBy(m => m.Id.Value).ToArray();
        var known = ordered.Select(m => m.Id).ToHashSet();
        var byModule = lessons.OrderBy(l => l.Position).ThenBy(l => l.Id.Value).ToLookup(l => l.ModuleId is { } m && known.Contains(m) ? m : default);
        var parts = new List<OutlinePart>(ordered.Length + 1);
        if (byModule.Contains(default)) parts.Add(new(null, [.. byModule[default]]));
        foreach (var m in ordered) parts.Add(new(m, [.. byModule[m.Id]]));
        return parts.Count == 0 ? Empty : new(parts);
    }

    public Lesson? Find(LessonId id) => Lessons.FirstOrDefault(l => l.Id == id);

    /// <summary>Only the lessons for which something holds; modules stay, even empty.</summary>
    public Outline Where(Func<Lesson, bool> keep) =>
        new([.. Parts.Select(p => p with { Lessons = [.. p.Lessons.Where(keep)] }).Where(p => p.Module is not null || p.Lessons.Count > 0)]);

    public Lesson? Before(LessonId id, Func<Lesson, bool> counts) => Lessons.TakeWhile(l => l.Id != id).LastOrDefault(counts);
    public Lesson? After(LessonId id, Func<Lesson, bool> counts) => Lessons.SkipWhile(l => l.Id != id).Skip(1).FirstOrDefault(counts);

    /// <summary>The order as numbers only.</summary>
    public OutlineOrder Order => new([.. Parts.Select(p => new OutlineOrder.Group(p.Module?.Id, [.. p.Lessons.Select(l => l.Id)]))]);
}

/// <summary>An order of modules and lessons, by their numbers. Moving gives another one; nothing is ever lost or doubled by it.</summary>
public sealed record OutlineOrder(IReadOnlyList<OutlineOrder.Group> Groups)
{
    /// <summary>A module (null: before the first one) and its lessons in order.</summary>
    public sealed record Group(ModuleId? Module, IReadOnlyList<LessonId> Lessons);

    public IEnumerable<LessonId> Lessons => Groups.SelectMany(g => g.Lessons);
    public IEnumerable<ModuleId> Modules => Groups.Where(g => g.Module is not null).Select(g => g.Module!.Value);

    /// <summary>The same modules and lessons as another order, each once.</summary>
    public bool SameSetAs(OutlineOrder other) =>
        Lessons.Order(ById).SequenceEqual(other.Lessons.Order(ById))
            && Modules.Select(m => m.Value).Order().SequenceEqual(other.Modules.Select(m => m.Value).Order());

    static readonly Comparer<LessonId> ById = Comparer<LessonId>.Create((a, b) => a.Value.CompareTo(b.Value));

    /// <summary>Takes lessons out of where they stand and puts them, in their present order, at a place; the place is counted without them and
    /// clamped.</summary>
    /// <exception cref="ArgumentException">The module isn't in this order.</exception>
    public OutlineOrder MoveLessons(IReadOnlyCollection<LessonId> ids, LessonPlace to)
    {
        if (to.Module is { } wanted && !Modules.Contains(wanted)) throw new ArgumentException("This order has no such module.", nameof(to));
        var moving = Lessons.Where(ids.Contains).ToArray();
        var groups = Groups.Select(g => g with { Lessons = [.. g.Lessons.Where(l => !ids.Contains(l))] }).ToList();
        if (to.Module is null && groups.All(g => g.Module is not null)) groups.Insert(0, new(null, []));
        var at = groups.FindIndex(g => g.Module == to.Module);
        var lessons = groups[at].Lessons.ToList();
        lessons.InsertRange(Math.Clamp(to.At, 0, lessons.Count), moving);
        groups[at] = groups[at] with { Lessons = lessons };
        return new([.. groups.Where(g => g.Module is not null || g.Lessons.Count > 0)]);
    }

    /// <summary>One place up or down; past the end of a module into the neighbouring one.</summary>
    public OutlineOrder Step(LessonId id, int by)
    {
        var g = Groups.ToList().FindIndex(x => x.Lessons.Contains(id));
        if (g < 0 || by is not (1 or -1)) return this;
        var at = Groups[g].Lessons.ToList().IndexOf(id) + by;
        if (at >= 0 && at < Groups[g].Lessons.Count) return MoveLessons([id], new(Groups[g].Module, at));
        if (by < 0 && g > 0) return MoveLessons([id], new(Groups[g - 1].Module, Groups[g - 1].Lessons.Count));
        if (by > 0 && g + 1 < Groups.Count) return MoveLessons([id], new(Groups[g + 1].Module, 0));
        return this;
    }

    /// <summary>Puts a module with its lessons at a place among the modules, counted without it and clamped.</summary>
    public OutlineOrder MoveModule(ModuleId id, int to)
    {
        if (Groups.FirstOrDefault(g => g.Module == id) is not { } moving) return this;
        var loose = Groups.Where(g => g.Module is null);
        var rest = Groups.Where(g => g.Module is not null && g.Module != id).ToList();
        rest.Insert(Math.Clamp(to, 0, rest.Count), moving);
        return new([.. loose, .. rest]);
    }
}
