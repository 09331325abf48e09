using BrightCircle.App.Catalogues;
using BrightCircle.App.Due;
using BrightCircle.App.Files;
using BrightCircle.Core.Community;
using BrightCircle.Data;
using Microsoft.EntityFrameworkCore;
using NodaTime;

namespace BrightCircle.App.Community;

/// <summary>A picture, or another file, as it comes from somebody’s machine.</summary>
public sealed record PictureUpload(string Name, long Length, Func<Stream> Open);

/// <summary>Whoever puts pictures up.</summary>
public readonly record struct Uploader(long Account, bool IsTeam)
{
    public static implicit operator Uploader(SpaceReader by) => new(by.Account, by.IsTeam);
}

/// <summary>Pictures in what is said, and files that go with it. Pictures are drawn anew, so that nothing is left of what a camera writes into them; files are
/// of the kinds the site keeps, by what is in them, and are only ever handed out to be saved. They come to stand with the words.</summary>
public sealed class TalkPictures(BrightContext db, Ids ids, IFileStore store, IVirusScan scan, Catalogue catalogue, IClock clock)
{
    public const int MostAnHour = 120;
    public const string TooMany = "Six pictures and files are the most.";
    /// <summary>In bytes.</summary>
    public const long MostFile = 20 << 20;

    /// <summary>A large picture takes 160 MB while it is drawn: two at a time.</summary>
    static readonly SemaphoreSlim AtOnce = new(2);

    /// <summary>Takes pictures up. They stand nowhere until words come with them, and go after a day if none do.</summary>
    /// <param name="refused">Why they can't put anything in just now; null where they can.</param>
    public async Task<Result<IReadOnlyList<long>>> Take(Uploader by, Result? refused, IReadOnlyList<PictureUpload> uploads, CancellationToken ct)
    {
        if (refused is { } why) return why;
        if (uploads.Count > TalkPicture.Most) return Result.Refused(TooMany, "Pictures");
        var at = clock.GetCurrentInstant();
        if (!by.IsTeam && await Hourly(by.Account, uploads.Count, at, ct) is { } tooMany) return tooMany;
        var taken = new List<TalkPicture>();
        foreach (var upload in uploads)
        {
            var read = await Read(by.Account, upload, at, true, ct);
            if (!read.Ok) return Result.Refused(read.Refusal!, read.Field);
            taken.Add(read.Value!);
        }
        return await Keep(taken, at, ct);
    }

    /// <summary>Takes up the one that stands on somebody’s card.</summary>
    internal async Task<Result<long>> TakeOne(long account, PictureUpload upload, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        if (await Hourly(account, 1, at, ct) is { } tooMany) return tooMany;
        var read = await Read(account, upload, at, false, ct);
        if (!read.Ok) return Result.Refused(read.Refusal!, read.Field);
        return (await Keep([read.Value!], at, ct))[0];
    }

    /// <summary>Keeps them for as long as they may stand nowhere.</summary>
    async Task<List<long>> Keep(List<TalkPicture> pictures, Instant at, CancellationToken ct)
    {
        foreach (var picture in pictures)
        {
            db.Add(picture);
            db.PutDue(ids, DueKind.ForgetPicture, picture.Id, at + TalkPicture.WaitsFor, $"forget-picture-{picture.Id}");
        }
        await db.SaveChangesAsync(ct);
        return pictures.ConvertAll(p => p.Id);
    }

    /// <summary>Why so many more aren’t taken in this hour; null where they are.</summary>
    async Task<Result?> Hourly(long account, int more, Instant at, CancellationToken ct)
    {
        var since = at - Duration.FromHours(1);
        return await db.TalkPictures.CountAsync(p => p.AccountId == account && p.At > since, ct) + more > MostAnHour
            ? Result.Refused("That is a lot for an hour. Try again a little later.", "Pictures") : null;
    }

    /// <param name="files">A file that is no picture is taken, too.</param>
    async Task<Result<TalkPicture>> Read(long account, PictureUpload upload, Instant at, bool files, CancellationToken ct)
    {
        if (upload.Length > PictureSizes.MaxBytes) return Result.Refused($"{upload.Name} is over 40 MB. Make it smaller and try again.", "Pictures");
        var path = store.NewTemporary();
        try
        {
            await using (var file = File.Create(path))
            await using (var from = upload.Open()) await from.CopyToAsync(file, ct);
            var kinds = catalogue.Now.Site?.DocumentKinds ?? Site.DefaultDocumentKinds;
            var known = FileCheck.Know(path, upload.Name);
            if (known is not { Kind: FileKind.Picture } && !(files && known is { Kind: FileKind.Document } && kinds.Contains(known.Extension[1..])))
                return Result.Refused(files ? $"{upload.Name} isn’t taken: it is no picture, and by what is in it none of {string.Join(", ", kinds)}."
                    : $"{upload.Name} isn’t a picture we can read. JPEG, PNG, WebP and GIF work.", "Pictures");
            if (await scan.Find(path, ct) is { } found) return Result.Refused($"{upload.Name} isn’t taken: the virus scanner found {found}.", "Pictures");
            if (known.Kind != FileKind.Picture) return await AsFile(account, upload.Name, path, known, at, ct);
            await AtOnce.WaitAsync(ct);
            try
            {
                if (PictureSizes.Read(path) is not { } bitmap) return Result.Refused($"{upload.Name} is damaged and can’t be read.", "Pictures");
                using (bitmap)
                {
                    var (large, small) = (await PictureSizes.Write(bitmap, PictureSizes.Widths[^1], store, ct),
                        await PictureSizes.Write(bitmap, PictureSizes.Widths[0], store, ct));
                    var scale = Math.Min(1.0, (double)PictureSizes.Widths[^1] / bitmap.Width);
                    return new TalkPicture
                    {
                        Id = ids.Next(),
                        AccountId = account,
                        Address = large,
                        Small = small,
                        At = at,
                        Width = (int)Math.Round(bitmap.Width * scale),
                        Height = Math.Max(1, (int)Math.Round(bitmap.Height * scale)),
                    };
                }
            }
            finally
            {
                AtOnce.Release();
            }
        }
        finally
        {
            File.Delete(path);
        }
    }

    async Task<Result<TalkPicture>> AsFile(long account, string name, string path, KnownFile known, Instant at, CancellationToken ct)
    {
        var bytes = new FileInfo(path).Length;
        if (bytes > MostFile) return Result.Refused($"{name} is over 20 MB. Make it smaller, or put it somewhere else and give the link.", "Pictures");
        var address = await FileAddress.Of(path, known.Extension, ct);
        await store.Take(path, address, ct);
        var stem = Bounded.To(new string([.. Path.GetFileNameWithoutExtension(name).Where(c => !char.IsControl(c) && c is not ('"' or '/' or '\\'))]).Trim(),
            TalkPicture.MostName - known.Extension.Length);
        return new TalkPicture
        {
            Id = ids.Next(),
            AccountId = account,
            Address = address,
            Small = address,
            FileName = (stem.Length > 0 ? stem : "file") + known.Extension,
            Bytes = bytes,
            At = at,
        };
    }

    /// <summary>Those that stand nowhere: in no post, no message, on no card.</summary>
    internal static IQueryable<TalkPicture> Nowhere(BrightContext db) => db.TalkPictures.Where(p => p.PostId == null && p.MessageId == null && p.WordsId == null
        && !db.PersonCards.Any(c => c.PictureId == p.Id));

    /// <summary>Those of somebody that stand nowhere yet, of the ones named.</summary>
    public async Task<IReadOnlyList<TalkPicture>> Waiting(Uploader by, IReadOnlyList<long> those, CancellationToken ct)
    {
        if (those.Count == 0) return [];
        var account = by.Account;
        var found = await Nowhere(db).AsNoTracking().Where(p => those.Contains(p.Id) && p.AccountId == account).ToListAsync(ct);
        return [.. found.OrderBy(p => those.ToList().IndexOf(p.Id))];
    }

    /// <summary>Whether any of those named is a picture, and no other file: of those that somebody has put up, and of those that stand in a post.</summary>
    internal async Task<bool> AnyPicture(SpaceReader by, long? post, IReadOnlyList<long> those, CancellationToken ct)
    {
        var account = by.Account;
        return those.Count > 0 && await db.TalkPictures.AnyAsync(p => those.Contains(p.Id) && p.FileName == null
            && (p.PostId != null && p.PostId == post || p.AccountId == account && Nowhere(db).Any(n => n.Id == p.Id)), ct);
    }

    /// <summary>Those of a post, in their order.</summary>
    public async Task<IReadOnlyList<TalkPicture>> Of(long post, CancellationToken ct) =>
        await db.TalkPictures.AsNoTracking().Where(p => p.PostId == post).OrderBy(p => p.Place).ToListAsync(ct);

    /// <summary>Lets pictures stand in a post, in their order; those it had and that aren't among them go.</summary>
    internal async Task Belong(SpaceReader by, long post, Shown? shown, CancellationToken ct)
    {
        if (shown is null) return;
        var account = by.Account;
        var (at, those) = (clock.GetCurrentInstant(), shown.Pictures);
        var rows = await db.TalkPictures.Where(p => p.PostId == post || those.Contains(p.Id) && p.AccountId == account
            && Nowhere(db).Any(n => n.Id == p.Id)).ToListAsync(ct);
        var alt = Bounded.To(shown.Alt?.Trim() ?? "", TalkPicture.MostAlt);
        foreach (var row in rows)
        {
            var place = shown.PlaceOf(row.Id);
            if (place >= 0) (row.PostId, row.Place, row.Alt) = (post, place, shown.Alt is null ? row.Alt : alt);
            else
            {
                row.PostId = null;
                db.PutDue(ids, DueKind.ForgetPicture, row.Id, at, $"forget-picture-{row.Id}-out");
            }
        }
        await db.SaveChangesAsync(ct);
    }

    /// <summary>Lets pictures that somebody put up go with a message, in their order.</summary>
    /// <param name="put">Says which message.</param>
    internal async Task GoWith(long account, Shown? shown, Action<TalkPicture> put, CancellationToken ct)
    {
        if (shown is not { Pictures: { Count: > 0 } those }) return;
        var alt = Bounded.To(shown.Alt?.Trim() ?? "", TalkPicture.MostAlt);
        foreach (var row in await Nowhere(db).Where(p => those.Contains(p.Id) && p.AccountId == account).ToListAsync(ct))
        {
            put(row);
            (row.Place, row.Alt) = (shown.PlaceOf(row.Id), shown.Alt is null ? row.Alt : alt);
        }
        await db.SaveChangesAsync(ct);
    }

    /// <summary>The same pictures once more, for somebody who shows them to the team.</summary>
    internal async Task<Shown?> CopiesOf(long message, long account, CancellationToken ct)
    {
        var at = clock.GetCurrentInstant();
        var copies = (await db.TalkPictures.AsNoTracking().Where(p => p.WordsId == message).OrderBy(p => p.Place).ToListAsync(ct)).ConvertAll(p =>
            new TalkPicture
            {
                Id = ids.Next(),
                AccountId = account,
                Address = p.Address,
                Small = p.Small,
                Width = p.Width,
                Height = p.Height,
                FileName = p.FileName,
                Bytes = p.Bytes,
                Alt = p.Alt,
                At = at,
            });
        return copies.Count == 0 ? null : new(await Keep(copies, at, ct), null);
    }

    /// <summary>Where one is kept, with the name it is saved under if it is a file; null where it isn’t there, or stands in what was taken away.</summary>
    /// <param name="byTeam">The team sees what it took away.</param>
    public async Task<(string Address, string? SaveAs)?> AddressOf(long picture, bool small, bool byTeam, CancellationToken ct)
    {
        var found = await db.TalkPictures.AsNoTracking().Where(p => p.Id == picture && (byTeam || p.PostId == null
            || db.TalkPosts.Any(o => o.Id == p.PostId && (o.GoneAt == null || o.Held != null)
                && db.TalkThreads.Any(t => t.Id == o.ThreadId && (t.HiddenAt == null || o.Held != null))))).FirstOrDefaultAsync(ct);
        return found is null ? null : (small ? found.Small : found.Address, found.FileName);
    }
}

/// <summary>Pictures that stand nowhere go, with what is kept of them.</summary>
public sealed class ForgetPicture(BrightContext db, IFileStore store) : IDueHandler
{
    public DueKind Kind => DueKind.ForgetPicture;

    public async Task Handle(IReadOnlyList<DueItem> items, Happenings happened, CancellationToken ct)
    {
        var those = items.Select(i => i.Row.SubjectId).ToArray();
        await Drop(db, store, await TalkPictures.Nowhere(db).AsNoTracking().Where(p => those.Contains(p.Id)).ToListAsync(ct), ct);
    }

    /// <summary>Takes rows away, and the bytes that no other row has.</summary>
    internal static async Task Drop(BrightContext db, IFileStore store, IReadOnlyList<TalkPicture> rows, CancellationToken ct)
    {
        if (rows.Count == 0) return;
        var gone = rows.Select(r => r.Id).ToArray();
        await db.TalkPictures.Where(p => gone.Contains(p.Id)).ExecuteDeleteAsync(ct);
        var addresses = rows.SelectMany(r => new[] { r.Address, r.Small }).Distinct().ToArray();
        var shared = await db.TalkPictures.Where(p => addresses.Contains(p.Address)).Select(p => p.Address)
            .Concat(db.TalkPictures.Where(p => addresses.Contains(p.Small)).Select(p => p.Small))
            .Concat(db.Files.Where(f => addresses.Contains(f.Address)).Select(f => f.Address)).Distinct().ToListAsync(ct);
        foreach (var address in addresses.Except(shared)) await store.Delete(address, ct);
    }
}
