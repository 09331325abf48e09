// One PostgreSQL and one pair of stand-ins serve all tests here, and some tests stop them on purpose.
[assembly: Xunit.CollectionBehavior(DisableTestParallelization = true)]
