namespace BrightCircle.App.Demo;

/// <summary>Invented names, the same ones for the same seed. Addresses end in .example.</summary>
sealed class DemoPeople(Random random)
{
    static readonly string[] First =
        ("Mirela Orla Tomas Hanne Piet Ruth Jonas Ansel Bryony Cato Delphine Edda Fenn Greta Hesper Idris Jorun Kester Linnea Maude Nils Ottilie Perrin "
            + "Quilla Rowan Sunniva Tilda " +
        "Ulric Verity Wendel Ysolde Zora Alaric Birgit Corin Dagny Emrys Frida Gwil Hedda Ivo Juniper Kaja Lorcan Merle Noor Osric Petra Rhoswen Sela "
        + "Torvald Una Viggo Wren Yara Albin Beate Cosmo Dilys Elin " +
        "Florian Gudrun Hobart Ilse Jarl Kirsi Lowri Mattis Nerys Odette Padrig Runa Stellan Thora").Split(' ');
    static readonly string[] Last =
        ("Duarte Venn Reki Solberg Adema Ovando Felt Hartwin Mossley Brackenby Quill Oxlade Fennimore Tarn Wexcombe Lindqvarn Pellow Strand Hollis-Wray "
            + "Kettleby Nordahl Prynne Ashgrove Bellwether " +
        "Carrow Dunmere Eskdal Farrowdale Gantry Helm Iverton Jessop-Lane Kvist Larkhill Marlowe-Pike Nettlefield Orrin Pask Rushby Sedgewin Thistlewood "
        + "Underhay Vesper Wharram Yewdale Zeller").Split(' ');
    static readonly string[] Houses = ["meadowmail.example", "hedgepost.example", "lanternbox.example", "fieldnote.example", "oldmill.example"];
    readonly HashSet<string> taken = [];

    public (string Name, string Email) Next()
    {
        while (true)
        {
            var (first, last) = (First[random.Next(First.Length)], Last[random.Next(Last.Length)]);
            if (!taken.Add(first + last)) continue;
            var plain = (first + "." + last).ToLowerInvariant().Replace("-", "", StringComparison.Ordinal);
            return ($"{first} {last}", $"{plain}@{Houses[random.Next(Houses.Length)]}");
        }
    }
}
