// The highest of eight inputs that is on, how many are, and whether that changed; in SystemVerilog's manner of
// procedures and loops.
module top(input clk, input [7:0] on, output reg [2:0] first, output reg any, output reg [3:0] count, output reg moved);
  integer k;
  reg [3:0] earlier = 0;
  always @* begin
    first = 0;
    any = 0;
    count = 0;
    for (k = 0; k < 8; k = k + 1) begin
      if (on[k]) begin first = k; any = 1; end
      count = count + on[k];
    end
  end
  initial moved = 0;
  always @(posedge clk) begin
    earlier <= count;
    moved <= earlier !== count;
  end
endmodule
