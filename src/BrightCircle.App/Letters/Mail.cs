using System.Net.Sockets;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace BrightCircle.App.Letters;

public sealed class MailSettings
{
    public string Host { get; set; } = "127.0.0.1";
    public int Port { get; set; } = 25;
    public string? User { get; set; }
    public string? Password { get; set; }
    public bool StartTls { get; set; }
    public string From { get; set; } = "letters@localhost";
    /// <summary>How long an answer of the server is waited for; then it counts as gone.</summary>
    public int PatienceSeconds { get; set; } = 60;
}

/// <summary>Carries letters to the mail server.</summary>
public interface IMailTransport
{
    /// <exception cref="MailUnreachableException">No server answers.</exception>
    Task<IMailSession> Connect(CancellationToken ct);
}

public interface IMailSession : IAsyncDisposable
{
    /// <exception cref="MailUnreachableException">The server went away.</exception>
    Task<MailOutcome> Send(MimeMessage message, CancellationToken ct);
}

public abstract record MailOutcome
{
    private MailOutcome() { }
    public sealed record Accepted : MailOutcome;
    /// <summary>The server won't take it, now or ever.</summary>
    public sealed record Refused(string Why) : MailOutcome;
    /// <summary>The server asks to try later.</summary>
    public sealed record Later(string Why) : MailOutcome;
}

public sealed class MailUnreachableException(string message, Exception inner) : Exception(message, inner);

/// <summary>Over SMTP, to whatever server the settings name. One connection is kept for the next round.</summary>
public sealed class SmtpTransport(MailSettings settings, MailSigning signing) : IMailTransport, IDisposable
{
    readonly MailSigning signing = signing;
    SmtpClient? idle;

    public async Task<IMailSession> Connect(CancellationToken ct)
    {
        if (Interlocked.Exchange(ref idle, null) is { } kept)
        {
            try
            {
                await Patiently(kept.NoOpAsync, ct);
                return new Session(this, kept);
            }
            catch (Exception e) when (IsGone(e) || e is SmtpCommandException)
            {
                kept.Dispose();
            }
        }
        var client = new SmtpClient { Timeout = 15_000 };
        try
        {
            await Patiently(async stop =>
            {
                // A letter's last words go at once: otherwise they wait for the other side's word about the ones before, some 40 ms for each letter.
                var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
                try
                {
                    await socket.ConnectAsync(settings.Host, settings.Port, stop);
                    await client.ConnectAsync(socket, settings.Host, settings.Port,
                        settings.StartTls ? SecureSocketOptions.StartTls : SecureSocketOptions.None, stop);
                }
                catch
                {
                    socket.Dispose();
                    throw;
                }
                if (settings.User is { Length: > 0 }) await client.AuthenticateAsync(settings.User, settings.Password ?? "", stop);
            }, ct);
            return new Session(this, client);
        }
        catch (Exception e) when (e is not OperationCanceledException)
        {
            client.Dispose();
            throw new MailUnreachableException($"The mail server at {settings.Host}:{settings.Port} can’t be reached.", e);
        }
    }

    /// <summary>The library waits for ever for a server that says nothing: here it counts as gone after a while.</summary>
    async Task Patiently(Func<CancellationToken, Task> what, CancellationToken ct)
    {
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(ct);
        patience.CancelAfter(TimeSpan.FromSeconds(settings.PatienceSeconds));
        try
        {
            await what(patience.Token);
        }
        catch (OperationCanceledException e) when (!ct.IsCancellationRequested)
        {
            throw new TimeoutException($"It said nothing for {settings.PatienceSeconds} seconds.", e);
        }
    }

    static bool IsGone(Exception e) => e is SmtpProtocolException or IOException or ServiceNotConnectedException or TimeoutException
        or SocketException;

    public void Dispose() => Interlocked.Exchange(ref idle, null)?.Dispose();

    sealed class Session(SmtpTransport owner, SmtpClient client) : IMailSession
    {
        public async Task<MailOutcome> Send(MimeMessage message, CancellationToken ct)
        {
            try
            {
                owner.signing.Sign(message);
                await owner.Patiently(stop => client.SendAsync(message, stop), ct);
                return new MailOutcome.Accepted();
            }
            catch (SmtpCommandException e)
            {
                return (int)e.StatusCode < 500 ? new MailOutcome.Later(e.Message) : new MailOutcome.Refused(e.Message);
            }
            catch (Exception e) when (IsGone(e))
            {
                // What it was in the middle of isn't gone on with.
                client.Dispose();
                throw new MailUnreachableException("The mail server went away.", e);
            }
        }

        public async ValueTask DisposeAsync()
        {
            if (client.IsConnected && Interlocked.CompareExchange(ref owner.idle, client, null) is null) return;
            try { if (client.IsConnected) await client.DisconnectAsync(true); }
            catch (Exception e) when (IsGone(e) || e is SmtpCommandException) { /* it is gone already */ }
            client.Dispose();
        }
    }
}
