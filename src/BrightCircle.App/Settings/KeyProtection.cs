using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.Extensions.Configuration;

namespace BrightCircle.App.Settings;

/// <summary>
/// The keys that sign cookies, links and files lie in the database; a certificate outside of it keeps them unreadable there. It is made where the setting names
/// a file that isn't there yet, and all nodes share it.
/// </summary>
public static class KeyProtection
{
    /// <param name="settings">"Keys:Certificate" names a PKCS #12 file; without it the keys lie unprotected. "Keys:Password" opens it.</param>
    public static IDataProtectionBuilder ProtectKeysBy(this IDataProtectionBuilder builder, IConfiguration settings)
    {
        if (settings["Keys:Certificate"] is not { Length: > 0 } path) return builder;
        var certificate = Load(path, settings["Keys:Password"]);
        return builder.ProtectKeysWithCertificate(certificate).UnprotectKeysWithAnyCertificate(certificate);
    }

    static X509Certificate2 Load(string path, string? password)
    {
        if (!File.Exists(path)) Make(path, password);
        return X509CertificateLoader.LoadPkcs12FromFile(path, password, X509KeyStorageFlags.EphemeralKeySet);
    }

    static void Make(string path, string? password)
    {
        using var key = RSA.Create(3072);
        var request = new CertificateRequest("CN=Bright Circle keys", key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        // It proves nothing to anybody: only its key is used, for as long as the site lives.
        using var made = request.CreateSelfSigned(DateTimeOffset.UnixEpoch.AddYears(50), DateTimeOffset.UnixEpoch.AddYears(130));
        Directory.CreateDirectory(Path.GetDirectoryName(Path.GetFullPath(path))!);
        // Written beside and moved, so that two nodes starting together end with one file.
        var beside = $"{path}.{Guid.NewGuid():N}";
        var options = new FileStreamOptions { Mode = FileMode.CreateNew, Access = FileAccess.Write };
        if (!OperatingSystem.IsWindows()) options.UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite;
        using (var file = new FileStream(beside, options))
            file.Write(made.Export(X509ContentType.Pkcs12, password));
        try
        {
            File.Move(beside, path, overwrite: false);
        }
        catch (IOException) when (File.Exists(path))
        {
            File.Delete(beside);
        }
    }
}
