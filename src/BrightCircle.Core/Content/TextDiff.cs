namespace BrightCircle.Core.Content;

public enum DiffKind { Same, Added, Removed }
public readonly record struct DiffLine(DiffKind Kind, string Text);

/// <summary>What changed between two texts, line by line: the longest common subsequence stays, the rest was taken out or added.</summary>
public static class TextDiff
{
    const int Most = 3000;

    /// <remarks>Above 3,000 lines on a side the common head and tail stay and all between counts as changed.</remarks>
    public static IReadOnlyList<DiffLine> Of(IReadOnlyList<string> before, IReadOnlyList<string> after)
    {
        int head = 0, tail = 0;
        while (head < before.Count && head < after.Count && before[head] == after[head]) head++;
        while (tail < before.Count - head && tail < after.Count - head && before[^(tail + 1)] == after[^(tail + 1)]) tail++;
        var (n, m) = (before.Count - head - tail, after.Count - head - tail);
        var lines = before.Take(head).Select(l => new DiffLine(DiffKind.Same, l)).ToList();
        if (n <= Most && m <= Most)
        {
            var common = new int[n + 1, m + 1];
            for (var i = n - 1; i >= 0; i--)
                for (var j = m - 1; j >= 0; j--)
                    common[i, j] = before[head + i] == after[head + j] ? common[i + 1, j + 1] + 1 : Math.Max(common[i + 1, j], common[i, j + 1]);
            int a = 0, b = 0;
            while (a < n || b < m)
                if (a < n && b < m && before[head + a] == after[head + b]) { lines.Add(new(DiffKind.Same, before[head + a])); a++; b++; }
                else if (a < n && (b == m || common[a + 1, b] >= common[a, b + 1])) lines.Add(new(DiffKind.Removed, before[head + a++]));
                else lines.Add(new(DiffKind.Added, after[head + b++]));
        }
        else
        {
            lines.AddRange(before.Skip(head).Take(n).Select(l => new DiffLine(DiffKind.Removed, l)));
            lines.AddRange(after.Skip(head).Take(m).Select(l => new DiffLine(DiffKind.Added, l)));
        }
        lines.AddRange(before.Skip(before.Count - tail).Select(l => new DiffLine(DiffKind.Same, l)));
        return lines;
    }
}
