// One browser and one demo site at a time.
[assembly: Xunit.CollectionBehavior(DisableTestParallelization = true)]
